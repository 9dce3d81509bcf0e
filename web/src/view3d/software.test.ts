import { ShaderMaterial, type WebGLProgramParametersWithUniforms, type WebGLRenderer } from "three";
import library from "three/src/extras/PMREMGenerator.js?raw";
import { describe, expect, it } from "vitest";
import { withFewSamples } from "./software";

const TAKEN = `#define GGX_SAMPLES 256u
  uniform int sourceSize;
  max( log2( d ) + lodBias, 0.0 ); textureLod( envMap, texelDirection, sourceLod );`;

function compiled(): string {
  const shader = { fragmentShader: TAKEN } as WebGLProgramParametersWithUniforms;
  new ShaderMaterial().onBeforeCompile(shader, {} as WebGLRenderer);
  return shader.fragmentShader;
}

describe("a room that is caught by software", () => {
  it("is caught with fewer samples, each of a smaller picture, and what is done comes back", () => {
    const [made, result] = withFewSamples(() => [compiled(), "caught"]);
    expect(made).toBe(`#define GGX_SAMPLES 16u
  const int sourceSize = 8;
  max( log2( d ) + lodBias + 2.0, 0.0 ); textureLod( envMap, texelDirection, sourceLod + 1.0 );`);
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
    expect(library).toContain("const INTEGRATION_SIZE = 16;");
    for (const taken of ["log2( d ) + lodBias", "texelDirection, sourceLod )"])
      expect(library).toContain(taken);
    expect(library).toContain("uniform int sourceSize;");
  });
});
