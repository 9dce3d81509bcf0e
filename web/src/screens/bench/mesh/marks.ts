import type { TextureSet } from "../../../api/client";
import { type MeshLook, marksUrl } from "../../../api/meshes";
import type { Missed } from "../view";

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

/** The pictures of where the rays of the set's bake met nothing. */
export function missedOf(set: TextureSet): Missed {
  const baked = set.masters.flatMap(({ given }) => given?.baked ?? []);
  return {
    whole: baked.map(({ missed_map }) => missed_map).find((map) => map) ?? null,
    tiles: Object.assign({}, ...baked.map(({ missed_in_tiles }) => missed_in_tiles)),
  };
}

/** Whether a ray missed anywhere. */
export const hasMissed = ({ whole, tiles }: Missed) =>
  whole !== null || Object.keys(tiles).length > 0;

/** The pictures to lay over the map, in their order; islands are drawn as lines. */
export function markPictures(
  marks: readonly MeshMark[],
  look: MeshLook | null,
  material: number,
  missed: Missed,
  tile: number | null = null,
): string[] {
  const where = tile === null ? missed.whole : missed.tiles[tile];
  return MARKS.flatMap(([mark]) => {
    if (!look || !marks.includes(mark) || mark === "islands") return [];
    if (mark === "missed") return where ? [`/api/missed/${where}`] : [];
    return [marksUrl(look, material, mark, tile)];
  });
}
