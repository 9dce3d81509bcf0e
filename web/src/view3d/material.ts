import { Color, DoubleSide, MeshPhysicalMaterial, ShaderChunk, Vector2 } from "three";
import type { Maps } from "./maps";
import type { Holes, WornMap } from "./names";

// the largest of the reflectance range; its index of refraction follows
const TOP_REFLECTANCE = 0.16;
const IOR = (1 + Math.sqrt(TOP_REFLECTANCE)) / (1 - Math.sqrt(TOP_REFLECTANCE));

const ALL_MIRRORED = 1e6; // an index so high that the color alone says how much is mirrored

/**
 * Where our packed layers differ from what the library's material reads: [chunk, its text, our
 * text].
 */
const READS = [
  [
    "normal_fragment_maps",
    "vec3 mapN = texture2D( normalMap, vNormalMapUv ).xyz * 2.0 - 1.0;",
    "vec3 mapN = texture2D( normalMap, vNormalMapUv ).xyz;",
  ],
  [
    "displacementmap_vertex",
    "texture2D( displacementMap, vDisplacementMapUv ).x",
    "texture2D( displacementMap, vDisplacementMapUv ).a",
  ],
  [
    "lights_physical_fragment",
    "specularIntensityFactor *= texture2D( specularIntensityMap, vSpecularIntensityMapUv ).a;",
    `specularIntensityFactor *= texture2D( specularIntensityMap, vSpecularIntensityMapUv ).a / ${TOP_REFLECTANCE};`,
  ],
  [
    "lights_physical_fragment",
    "material.specularF90 = mix( specularIntensityFactor, 1.0, metalnessFactor );",
    "material.specularF90 = 1.0;",
  ],
] as const;

/**
 * How a material is worn. `hasMaps` off leaves its color alone, `isClay` its shape alone,
 * `isMisread` turns its green over, `without` leaves one map out; what holes are.
 */
export type Wear = {
  hasMaps: boolean;
  isClay: boolean;
  isMisread: boolean;
  without: WornMap | null;
  holes: Holes;
  threshold: number;
};

/** Shape alone, in matte gray. */
export const CLAY = {
  color: new Color(0.5, 0.5, 0.5),
  roughness: 0.9,
  metalness: 0,
  specularIntensity: 0.04 / TOP_REFLECTANCE,
};

/** What takes a map's place where it is left out. */
const WITHOUT: Record<WornMap, object> = {
  base_color: { map: null, color: CLAY.color },
  normal: { normalMap: null },
  height: { displacementMap: null },
  roughness: { roughnessMap: null, roughness: 0.5 },
  metallic: { metalnessMap: null, metalness: 0 },
  occlusion: { aoMap: null },
  emissive: { emissiveMap: null, emissive: new Color(0, 0, 0) },
  own_coat: { clearcoatMap: null, clearcoatRoughnessMap: null, clearcoat: 0 },
};

/** A material that reads the packed layers. */
export function wearing(
  maps: Maps,
  { hasMaps, isClay, isMisread, without, holes, threshold }: Wear,
): MeshPhysicalMaterial {
  const shape = {
    normalMap: maps.shape,
    normalScale: new Vector2(1, isMisread ? -1 : 1),
    displacementMap: maps.shape,
    displacementScale: 0,
    displacementBias: 0,
  };
  const shine = {
    roughness: 1,
    metalness: 1,
    aoMap: maps.shine,
    roughnessMap: maps.shine,
    metalnessMap: maps.shine,
    ...(maps.mirror
      ? { specularColorMap: maps.mirror, ior: ALL_MIRRORED }
      : { specularIntensityMap: maps.shine }),
    emissiveMap: maps.glow,
    emissive: new Color(1, 1, 1),
    ...(maps.coat && {
      clearcoat: 1,
      clearcoatMap: maps.coat,
      clearcoatRoughness: 1,
      clearcoatRoughnessMap: maps.coat,
    }),
  };
  const colorAlone = { ...CLAY, color: new Color(1, 1, 1), map: maps.color, roughness: 0.6 };
  const asGiven = hasMaps ? { map: maps.color, ...shape, ...shine } : colorAlone;
  const worn = isClay ? { ...CLAY, ...shape } : asGiven;
  const look = without ? { ...worn, ...WITHOUT[without] } : worn;
  const material = new MeshPhysicalMaterial({
    alphaTest: holes === "cut" ? threshold : 0,
    transparent: holes === "through",
    side: DoubleSide,
    ior: IOR,
    ...look,
  });
  material.onBeforeCompile = (shader) => {
    for (const [chunk, theirs, ours] of READS) {
      if (!ShaderChunk[chunk].includes(theirs))
        throw new Error(`three's ${chunk} no longer reads as expected`);
      for (const stage of ["vertexShader", "fragmentShader"] as const)
        shader[stage] = shader[stage]
          .replace(`#include <${chunk}>`, ShaderChunk[chunk])
          .replace(theirs, ours);
    }
  };
  return material;
}
