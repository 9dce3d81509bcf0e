import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { Recipe } from "../../api/client";
import { ask } from "../../parts/ask";
import { sure } from "../../parts/sure";
import type { Layer } from "../../view3d/maps";
import type { ShownTile } from "./view";

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

const TAB = crypto.randomUUID();
let seq = 0;

/**
 * The picture of one master, or the packed layers of the lit view (`wanted` "lit"). While a newer
 * one is computed the one before stays, and `isBehind` says so. A `lane` is one pane of one tab:
 * its latest request wins at the server. With a `target` they are what that target would see.
 */
export function usePicture(
  lane: string,
  recipe: Recipe | null,
  wanted: string,
  size: number,
  tile: ShownTile | null = null,
  target: string | null = null,
) {
  const query = useQuery({
    queryKey: ["picture", lane, wanted, size, recipe, tile, target],
    queryFn: ({ signal }) =>
      fetchPicture(
        lane,
        { recipe: sure(recipe, "the recipe"), wanted, target, tile },
        size,
        signal,
      ),
    enabled: recipe !== null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
  });
  // layers are no picture, nor the other way round
  const isUsable = query.data && (query.data.wanted === "lit") === (wanted === "lit");
  return {
    picture: isUsable ? query.data : undefined,
    isBehind: query.isFetching,
    problem: query.error,
  };
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
