import { ShaderMaterial, type WebGLProgramParametersWithUniforms, type WebGLRenderer } from "three";
import library from "three/src/extras/PMREMGenerator.js?raw";
import { describe, expect, it } from "vitest";
import { withFewSamples } from "./software";

const TAKEN = "#define GGX_SAMPLES 256u\n#define SAMPLES 20\nvoid main() {}";

function compiled(): string {
  const shader = { fragmentShader: TAKEN } as WebGLProgramParametersWithUniforms;
  new ShaderMaterial().onBeforeCompile(shader, {} as WebGLRenderer);
  return shader.fragmentShader;
}

describe("a room that is caught by software", () => {
  it("is caught with fewer samples of both kinds, and what is done comes back", () => {
    const [made, result] = withFewSamples(() => [compiled(), "caught"]);
    expect(made).toBe("#define GGX_SAMPLES 32u\n#define SAMPLES 6\nvoid main() {}");
    expect(result).toBe("caught");
  });

  it("leaves shaders alone afterwards, also where catching it failed", () => {
    expect(() =>
      withFewSamples(() => {
        throw new Error("lost");
      }),
    ).toThrow("lost");
    expect(compiled()).toBe(TAKEN);
  });

  it("finds its samples in the library as they are named there", () => {
    expect(library).toContain("const GGX_SAMPLES = 256;");
    expect(library).toMatch(/#define GGX_SAMPLES \$\{ GGX_SAMPLES \}u/);
    expect(library).toContain("const BLUR_SAMPLES = 20;");
    expect(library).toMatch(/#define SAMPLES \$\{ BLUR_SAMPLES \}/);
  });
});
