import { Color, MeshPhysicalMaterial, ShaderChunk, Vector2 } from "three";
import type { Maps } from "./maps";

const TOP_REFLECTANCE = 0.16; // the largest of the reflectance range; its index of refraction follows
const IOR = (1 + Math.sqrt(TOP_REFLECTANCE)) / (1 - Math.sqrt(TOP_REFLECTANCE));

/** Where our packed layers differ from what the library's material reads: [chunk, its text, our text]. */
const READS = [
  ["normal_fragment_maps", "vec3 mapN = texture2D( normalMap, vNormalMapUv ).xyz * 2.0 - 1.0;", "vec3 mapN = texture2D( normalMap, vNormalMapUv ).xyz;"],
  ["displacementmap_vertex", "texture2D( displacementMap, vDisplacementMapUv ).x", "texture2D( displacementMap, vDisplacementMapUv ).a"],
  ["lights_physical_fragment", "specularIntensityFactor *= texture2D( specularIntensityMap, vSpecularIntensityMapUv ).a;", `specularIntensityFactor *= texture2D( specularIntensityMap, vSpecularIntensityMapUv ).a / ${TOP_REFLECTANCE};`],
  ["lights_physical_fragment", "material.specularF90 = mix( specularIntensityFactor, 1.0, metalnessFactor );", "material.specularF90 = 1.0;"],
] as const;

/** How a material is worn: as it is, with its green misread, or its color alone. */
export type Wear = "whole" | "green" | "bare";

/** A material that reads the packed layers. */
export function wearing(maps: Maps, wear: Wear): MeshPhysicalMaterial {
  const whole = wear !== "bare";
  const material = new MeshPhysicalMaterial({
    map: maps.color, alphaTest: 0.5, side: 2, ior: IOR, roughness: whole ? 1 : 0.6, metalness: whole ? 1 : 0,
    ...(whole && {
      normalMap: maps.shape, normalScale: new Vector2(1, wear === "green" ? -1 : 1), displacementMap: maps.shape, displacementScale: 0, displacementBias: 0,
      aoMap: maps.shine, roughnessMap: maps.shine, metalnessMap: maps.shine, specularIntensityMap: maps.shine, emissiveMap: maps.glow, emissive: new Color(1, 1, 1),
    }),
    ...(!whole && { specularIntensity: 0.04 / TOP_REFLECTANCE }),
  });
  material.onBeforeCompile = (shader) => {
    for (const [chunk, theirs, ours] of READS) {
      if (!ShaderChunk[chunk].includes(theirs)) throw new Error(`three's ${chunk} no longer reads as expected`);
      for (const stage of ["vertexShader", "fragmentShader"] as const) shader[stage] = shader[stage].replace(`#include <${chunk}>`, ShaderChunk[chunk]).replace(theirs, ours);
    }
  };
  return material;
}
