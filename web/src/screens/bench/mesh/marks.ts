import type { TextureSet } from "../../../api/client";
import { type MeshLook, marksUrl } from "../../../api/meshes";

/** What can be drawn over a picture that a mesh wears: its name, and what it shows. */
export const MARKS = [
  ["islands", "Islands", "The borders of the islands"],
  ["overlaps", "Overlaps", "Where faces lie on each other"],
  ["stretch", "Stretch", "Where the picture is stretched, the more the stronger"],
  ["hard", "Hard edges", "Hard edges inside an island, which no map can hold"],
  ["margins", "Margins", "Where islands lie too close: they run into each other in smaller maps"],
  ["missed", "Missed rays", "Where the rays of the bake met nothing"],
] as const;

export type MeshMark = (typeof MARKS)[number][0];

/** The picture of where the rays of the set's bake met nothing. */
export const missedOf = (set: TextureSet): string | null =>
  set.masters.map(({ given }) => given?.baked?.missed_map).find((map) => map) ?? null;

/** The pictures to lay over the map, in their order; islands are drawn as lines. */
export function markPictures(
  marks: readonly MeshMark[],
  look: MeshLook | null,
  material: number,
  missed: string | null,
): string[] {
  return MARKS.flatMap(([mark]) => {
    if (!look || !marks.includes(mark) || mark === "islands") return [];
    if (mark === "missed") return missed ? [`/api/missed/${missed}`] : [];
    return [marksUrl(look, material, mark)];
  });
}
