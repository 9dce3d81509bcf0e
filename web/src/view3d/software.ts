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
 * What the library takes of a room for each direction, and what is enough by software: [its text,
 * ours].
 */
const SAMPLES = [
  ["#define GGX_SAMPLES 256u", "#define GGX_SAMPLES 32u"],
  ["#define SAMPLES 20", "#define SAMPLES 6"],
] as const;

/**
 * Catch a room with a part of the samples that the library takes for each direction: by software
 * all of them take seconds, and our rooms are smooth. Where the library names them otherwise, all
 * are taken.
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
