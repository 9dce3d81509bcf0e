import type { MeshLook, useBakeable, Worn } from "../../../api/meshes";

type Bakeable = ReturnType<typeof useBakeable>[number];

/** What a map cannot be baked without and is not there; undefined where nothing is lacking. */
export function lackOf(
  { needs_high, needs_closed }: Pick<Bakeable, "needs_high" | "needs_closed">,
  { high }: Pick<Worn, "high">,
  look: Pick<MeshLook, "open_edges"> | null,
): string | undefined {
  if (needs_high && !high.length) return "It is baked from a high mesh.";
  if (needs_closed && !high.length && look?.open_edges)
    return "The mesh is open, so it has no inside.";
}

/** The maps that are asked for and can be baked. */
export const bakedMaps = (all: Bakeable[], worn: Worn, look: MeshLook | null) =>
  worn.maps.filter((map) => {
    const row = all.find((one) => one.map === map);
    return !row || !lackOf(row, worn, look);
  });
