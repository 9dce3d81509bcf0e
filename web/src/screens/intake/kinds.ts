/** What a file can be taken in as, in the order a person looks for it. */
export const KINDS = [
  ["base_color", "Base color"], ["photo", "Photo"], ["diffuse", "Diffuse"], ["specular", "Specular color"], ["normal", "Normal"], ["height", "Height"], ["roughness", "Roughness"], ["gloss", "Gloss"], ["metallic", "Metallic"],
  ["occlusion", "Ambient occlusion"], ["opacity", "Opacity"], ["emissive", "Emissive"], ["reflectance", "Reflectance"], ["curvature", "Curvature"], ["packed", "Channels apart"],
] as const;

export const GREENS = [["up", "Y+"], ["down", "Y−"]] as const;
