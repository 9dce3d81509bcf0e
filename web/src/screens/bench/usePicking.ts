import { api, type Recipe, settled, type TextureSet } from "../../api/client";
import { type Edit, withParam } from "./edit";
import { picksIn } from "./params";
import { type Pick, withSpot } from "./picks";
import type { Texel } from "./stageProps";
import { useTile, useView } from "./view";

const PROBE_PX = 1024;

type Picking = {
  picks: Pick[];
  /** What a click says; with several texels, what a brushed spot does. */
  onPick: ((along: Texel[]) => void) | null;
  /** What is being picked, where it can be brushed. */
  brushing: number | null;
};

/**
 * The spots that were said something of on the chosen map, and what a click on the flat picture
 * says of one more.
 */
export function usePicking(set: TextureSet, chosen: string, edit: Edit): Picking {
  const look = useView((view) => view.look);
  const picking = useView((view) => view.picking);
  const pick = useView((view) => view.pick);
  const tile = useTile(set.tiles);
  const row = set.masters.find((m) => m.key === chosen);
  const isHere =
    picking !== null &&
    (picking.node === row?.node || row?.mixed.some((step) => step.node === picking.node) === true);
  const node = isHere ? picking.node : row?.node;
  if (look === "lit" || !node) return { picks: picksIn(null), onPick: null, brushing: null };
  const picks = picksOf(edit.recipe, node);
  const shown = tile === null ? picks : picks.filter((pick) => pick.tile === tile);
  if (!isHere || tile === "all") return { picks: shown, onPick: null, brushing: null };

  const takeColor = async ({ u, v }: Texel) => {
    const { codes } = await settled(
      api.POST("/api/probes", { body: { recipe: edit.recipe, size: PROBE_PX, x: u, y: v, tile } }),
    );
    pick(null);
    edit.keep(withParam(edit.recipe, node, "color", codes.base_color));
  };
  const onPick = (along: Texel[]) => {
    if (picking.value === "color") return void takeColor(along[0]);
    edit.keep(withParam(edit.recipe, node, "picks", withSpot(picks, along, picking.value, tile)));
  };
  return { picks: shown, onPick, brushing: picking.value === "color" ? null : picking.value };
}

const picksOf = (recipe: Recipe, node: string): Pick[] => picksIn(recipe.nodes[node]?.params.picks);
