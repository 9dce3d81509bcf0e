/**
 * What a whole file can be taken in as, in the order a person looks for it, with the key that says
 * so on its row.
 */
export const KINDS = [
  ["base_color", "Base color", "b"],
  ["photo", "Photo", "p"],
  ["diffuse", "Diffuse", "f"],
  ["shaded_color", "Color with occlusion", ""],
  ["specular", "Specular color", "s"],
  ["normal", "Normal", "n"],
  ["object_normal", "Normal, object space", ""],
  ["height", "Height", "h"],
  ["roughness", "Roughness", "r"],
  ["gloss", "Gloss", "l"],
  ["metallic", "Metallic", "m"],
  ["occlusion", "Ambient occlusion", "o"],
  ["opacity", "Opacity", "t"],
  ["emissive", "Emissive", "e"],
  ["reflectance", "Reflectance", ""],
  ["curvature", "Curvature", ""],
  ["thickness", "Thickness", ""],
  ["position", "Position", ""],
  ["id", "ID", ""],
  ["roughness_squared", "Roughness, squared", ""],
  ["shine_power", "Specular power", ""],
  ["specular_level", "Specular level", ""],
  ["refraction", "Index of refraction", ""],
  ["packed", "Channels apart", "c"],
  ["own", "A map of your own", "w"],
] as const;

export const KIND_OF_KEY: Record<string, string> = Object.fromEntries(
  KINDS.filter(([, , key]) => key).map(([kind, , key]) => [key, kind]),
);

export const KEY_OF_KIND: Record<string, string> = Object.fromEntries(
  KINDS.map(([kind, , key]) => [kind, key]),
);
