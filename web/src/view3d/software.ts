import { ShaderMaterial } from "three";

/** Whether this browser draws by software alone, where every sample of a pixel costs time. */
export function isSoftware(): boolean {
  const gl = document.createElement("canvas").getContext("webgl2");
  const told = gl?.getExtension("WEBGL_debug_renderer_info");
  const name = told ? String(gl?.getParameter(told.UNMASKED_RENDERER_WEBGL)) : "";
  gl?.getExtension("WEBGL_lose_context")?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name);
}

/**
 * What the library takes of the surroundings for each direction, and what is enough by software:
 * [its text, ours]. A sixteenth of the samples, each of a picture two halvings smaller, and a
 * quarter of the texels, one halving smaller: of 255, the lit body differs by 0.3 on average.
 */
const SAMPLES = [
  ["#define GGX_SAMPLES 256u", "#define GGX_SAMPLES 16u"],
  ["log2( d ) + lodBias", "log2( d ) + lodBias + 2.0"],
  ["uniform int sourceSize;", "const int sourceSize = 8;"],
  ["texelDirection, sourceLod )", "texelDirection, sourceLod + 1.0 )"],
] as const;

/**
 * Catch surroundings with a part of the samples that the library takes for each direction: by
 * software all of them take seconds. Where the library names them otherwise, all are taken.
 */
export function withFewSamples<T>(work: () => T): T {
  const before = ShaderMaterial.prototype.onBeforeCompile;
  ShaderMaterial.prototype.onBeforeCompile = (shader) => {
    for (const [theirs, ours] of SAMPLES)
      shader.fragmentShader = shader.fragmentShader.replace(theirs, ours);
  };
  try {
    return work();
  } finally {
    ShaderMaterial.prototype.onBeforeCompile = before;
  }
}
