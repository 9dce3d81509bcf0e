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

type Always = "color" | "shape" | "shine" | "glow";
/**
 * `mirror`, the color of what is mirrored, comes only of targets that read diffuse and specular;
 * `coat` of sets that have one.
 */
export type Layer = Always | "mirror" | "coat";
export type Maps = Record<Always, DataTexture> & { mirror?: DataTexture; coat?: DataTexture };
/**
 * The packed answer: `layers` in their order; each holds linear half floats, four a texel, first
 * row on top.
 */
export type Packed = { width: number; height: number; bytes: ArrayBuffer; layers: Layer[] };

const BYTES_PER_TEXEL = 8;

/** Textures of one packed answer. Whoever calls disposes of them. */
export function mapsOf(
  { width, height, bytes, layers }: Packed,
  wrap: { x: string; y: string },
): Maps {
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
  return Object.fromEntries(layers.map((layer, k) => [layer, textureOf(k)])) as Maps;
}

const WRAPS: Record<string, typeof RepeatWrapping | typeof MirroredRepeatWrapping> = {
  wrap: RepeatWrapping,
  mirror: MirroredRepeatWrapping,
};
