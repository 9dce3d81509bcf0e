import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import type { Recipe, TextureSet } from "../../api/client";
import { ask } from "../../parts/ask";
import { sure } from "../../parts/sure";
import type { Layer } from "../../view3d/maps";
import { PANES, type Pane, type ShownTile, useView } from "./view";

export type Picture = {
  width: number;
  height: number;
  bytes: ArrayBuffer;
  layers: Layer[]; // none of one master
  recipe: Recipe;
  wanted: string;
  target: string | null;
  tile: ShownTile | null;
};

export const FIRST_CHOSEN = "height";
/** Longer sides while a control moves, and of the first picture: soon there. */
export const SMALL_PX = { flat: 512, lit: 256 };
/** One side of one pane: of its requests the latest wins. */
export const laneOf = (pane: Pane, side: "first" | "second") => `${pane} ${side}`;

const KEPT_MS = 300_000; // for a bench that is on its way, or that a table is read before
const TAB = crypto.randomUUID();
let seq = 0;

/**
 * The picture of one master, or the packed layers of the lit view (`wanted` "lit"). While a newer
 * one is computed the one before stays, and `isBehind` says so. A `lane` is one pane of one tab:
 * its latest request wins at the server. With a `target` they are what that target would see.
 */
export function usePicture(...told: Parameters<typeof asked>) {
  const [, recipe, wanted] = told;
  const query = useQuery({
    ...asked(...told),
    enabled: recipe !== null,
    placeholderData: keepPreviousData,
    gcTime: 0,
  });
  // layers are no picture, nor the other way round
  const isUsable = query.data && (query.data.wanted === "lit") === (wanted === "lit");
  return {
    picture: isUsable ? query.data : undefined,
    isBehind: query.isFetching,
    problem: query.error,
  };
}

const asked = (
  lane: string,
  recipe: Recipe | null,
  wanted: string,
  size: number,
  tile: ShownTile | null = null,
  target: string | null = null,
) => ({
  queryKey: ["picture", lane, wanted, size, recipe, tile, target],
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    fetchPicture(lane, { recipe: sure(recipe, "the recipe"), wanted, target, tile }, size, signal),
  staleTime: Infinity,
  retry: false,
});

/**
 * Ask for the pictures that a set is first seen by, before its bench is there: small ones, of the
 * map that is chosen first and of the material lit.
 */
export function askFirst(queries: QueryClient, made: Pick<TextureSet, "recipe" | "tiles">) {
  const { recipe, tiles } = made;
  if (tiles.length) return; // which of them is looked at stands in the view
  const wanted = { flat: FIRST_CHOSEN in recipe.masters ? FIRST_CHOSEN : null, lit: "lit" };
  for (const pane of PANES[useView.getState().look]) {
    const first = wanted[pane];
    if (!first) continue;
    const query = asked(laneOf(pane, "first"), recipe, first, SMALL_PX[pane]);
    void queries.prefetchQuery({ ...query, gcTime: KEPT_MS });
  }
}

export type Region = { x: number; y: number; width: number; height: number };

/** A picture of `size` on its longer side, or of a part of it in its texels. */
export async function fetchPicture(
  view: string,
  shown: Pick<Picture, "recipe" | "wanted" | "target" | "tile">,
  size: number,
  signal: AbortSignal,
  region?: Region,
): Promise<Picture> {
  const body = JSON.stringify({
    view: `${TAB}/${view}`,
    seq: ++seq,
    ...shown,
    size,
    region,
  });
  const response = await ask("/api/previews", {
    method: "POST",
    signal,
    headers: { "content-type": "application/json" },
    body,
  });
  if (response.status === 204) throw new Error("A newer picture took over.");
  if (!response.ok) throw new Error((await response.json()).detail);
  const [width, height] = ["x-width", "x-height"].map((name) => Number(response.headers.get(name)));
  const layers = (response.headers.get("x-layers")?.split(" ") ?? []) as Layer[];
  return { width, height, bytes: await response.arrayBuffer(), layers, ...shown };
}
