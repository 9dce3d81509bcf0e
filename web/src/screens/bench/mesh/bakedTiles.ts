import type { TextureSet } from "../../../api/client";
import type { MeshLook, Worn } from "../../../api/meshes";

/**
 * The tiles that a bake of the set makes pictures for, of those that its mesh lies in; none where
 * it makes one picture.
 */
export function bakedTiles(
  { tiles, recipe }: Pick<TextureSet, "tiles" | "recipe">,
  { is_in_tiles = null }: Pick<Worn, "is_in_tiles">,
  look: Pick<MeshLook, "tiles" | "are_copies"> | null,
): readonly number[] {
  const ofMesh = look?.tiles ?? [];
  const hasFiles = Object.values(recipe.sources ?? {}).some((source) => !source.baked);
  if (tiles.length && hasFiles) return ofMesh;
  return ofMesh.length > 1 && !hasFiles && (is_in_tiles ?? !look?.are_copies) ? ofMesh : [];
}
