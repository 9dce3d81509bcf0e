import {
  ClampToEdgeWrapping,
  DataTexture,
  HalfFloatType,
  LinearFilter,
  LinearMipmapLinearFilter,
  MirroredRepeatWrapping,
  NoColorSpace,
  RepeatWrapping,
  RGBAFormat,
} from "three";

/**
 * The layers of the packed answer, in their order; each holds linear half floats, four a texel,
 * first row on top.
 */
export const LAYERS = ["color", "shape", "shine", "glow", "mirror"] as const;
export type Layer = (typeof LAYERS)[number];
/**
 * `mirror`, the color of what is mirrored, comes only of targets that read diffuse and specular.
 */
export type Maps = Record<Exclude<Layer, "mirror">, DataTexture> & { mirror?: DataTexture };
export type Packed = { width: number; height: number; bytes: ArrayBuffer };

const BYTES_PER_TEXEL = 8;

/** Textures of one packed answer. Whoever calls disposes of them. */
export function mapsOf({ width, height, bytes }: Packed, wrap: { x: string; y: string }): Maps {
  const length = width * height * BYTES_PER_TEXEL;
  const textureOf = (k: number) => {
    const texture = new DataTexture(
      new Uint16Array(bytes, k * length, length / 2),
      width,
      height,
      RGBAFormat,
      HalfFloatType,
    );
    texture.colorSpace = NoColorSpace; // decoded by the server
    texture.flipY = true; // texture coordinates grow upwards, and so does green
    texture.wrapS = WRAPS[wrap.x] ?? ClampToEdgeWrapping;
    texture.wrapT = WRAPS[wrap.y] ?? ClampToEdgeWrapping;
    texture.magFilter = LinearFilter;
    texture.minFilter = LinearMipmapLinearFilter;
    texture.generateMipmaps = true;
    texture.anisotropy = 4;
    texture.needsUpdate = true;
    return texture;
  };
  const [color, shape, shine, glow] = [0, 1, 2, 3].map(textureOf);
  const hasMirror = bytes.byteLength >= LAYERS.length * length;
  return { color, shape, shine, glow, ...(hasMirror ? { mirror: textureOf(4) } : {}) };
}

const WRAPS: Record<string, typeof RepeatWrapping | typeof MirroredRepeatWrapping> = {
  wrap: RepeatWrapping,
  mirror: MirroredRepeatWrapping,
};
