import { useEffect, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Recipe, TextureSet } from "../../api/client";
import { useEnvironments } from "../../api/environments";
import { useTargets } from "../../api/queries";
import { bodyWorn, FAR, tilesSeen } from "../../view3d/names";
import {
  freshness,
  hasOther,
  isWornOtherwise,
  keyOf,
  otherRecipe,
  othersOf,
  otherTitle,
} from "./comparing";
import type { Edit } from "./edit";
import { useStarts, useTurns, useVersion } from "./hooks";
import { laneOf, SMALL_PX, usePicture } from "./pictures";
import { layoutOf } from "./tiles";
import { type Other, type Pane, type ShownTile, useView } from "./view";

const SHARP_PX = [256, 512, 1024]; // sizes at rest: the least that has a texel for every pixel
const SHARP_TILES_PX = 2048; // of several tiles that one body wears

export type Both = ReturnType<typeof useBoth>;

type Shown = {
  pane: Pane;
  set: TextureSet;
  edit: Edit;
  chosen: string;
  tile: ShownTile | null;
  isHeld: boolean;
  size: { width: number; height: number }; // of the pane, in CSS pixels
  prepared: Recipe | null; // as far as the step of preparing that is open, shown flat
};

/**
 * Both pictures of a pane, what they are called, and how new they are; nothing of a pane that is
 * hidden.
 */
export function useBoth({ pane, set, edit, chosen, tile, isHeld, size, prepared }: Shown) {
  const { look, pictures, other } = useView(
    useShallow(({ look, pictures, other }) => ({ look, pictures, other: other[look] })),
  );
  const isOpen = look === "pair" || look === pane;
  const { isMoving } = edit;
  const isPrepared = pane === "flat" && prepared !== null;
  const recipe = isPrepared ? prepared : edit.recipe;
  const version = useVersion(set, other);
  const isTurned = useTurns(pictures === "blink");
  const [isBegun, setBegun] = useState(false); // the first picture is small, and soon there
  const sharp = useSharpPx(pane, size, recipe.facts.edges, tile === "all" ? set.tiles : []);
  const px = isMoving || !isBegun ? Math.min(SMALL_PX[pane], sharp) : sharp;
  const { before } = set;
  const flat = isPrepared && "base_color" in recipe.masters ? "base_color" : chosen;
  const wanted = pane === "lit" ? "lit" : flat;
  const isShown = isOpen && (pictures !== "one" || isHeld);
  const made = otherRecipe({ look: pane, other, isShown, recipe, before, version });
  const first = usePicture(laneOf(pane, "first"), isOpen ? recipe : null, wanted, px, tile);
  const master = pane === "flat" ? keyOf(other, "master") : null;
  const second = usePicture(
    laneOf(pane, "second"),
    made,
    master ?? wanted,
    px,
    tile,
    keyOf(other, "target"),
  );
  const isThere = first.picture !== undefined;
  useEffect(() => {
    if (isThere) setBegun(true);
  }, [isThere]);

  const isWorn = made === null && pane === "lit" && isWornOtherwise(other);
  const problem = first.problem ?? second.problem;
  const isBehind = first.isBehind || second.isBehind || !isThere;
  return {
    first: first.picture,
    second: isShown ? (isWorn ? first.picture : made && second.picture) || undefined : undefined,
    isSwapped: (isHeld && pictures === "one") || isTurned,
    isSecondThere: hasOther({ other, before, version }),
    state: isOpen ? stateOf(problem, isBehind) : "ready",
    freshness: freshness(problem, isBehind, isMoving ? px : null),
  };
}

/**
 * How large a picture is asked for at rest. What is seen closer than that is fetched in detail,
 * flat.
 */
function useSharpPx(
  pane: Pane,
  size: Shown["size"],
  edges: { x: string; y: string },
  laidOut: number[],
): number {
  const { tiles, far, body } = useView(
    useShallow(({ tiles, place, body, mesh }) => ({
      tiles,
      far: place ? Math.hypot(...place) : FAR,
      body: bodyWorn(body, mesh, edges),
    })),
  );
  if (pane === "flat") return 1024;
  const side = Math.min(size.width, size.height) * window.devicePixelRatio;
  const wanted = (side * (FAR / far)) / (tiles * tilesSeen(body));
  if (laidOut.length && typeof body === "object") {
    const { columns, rows } = layoutOf(laidOut);
    const longer = (wanted * Math.max(columns, rows)) / Math.sqrt(laidOut.length);
    return [...SHARP_PX, SHARP_TILES_PX].find((px) => px >= longer) ?? SHARP_TILES_PX;
  }
  return SHARP_PX.find((px) => px >= wanted) ?? 1024;
}

const stateOf = (problem: Error | null | undefined, isComputing: boolean) => {
  if (problem) return "problem";
  return isComputing ? "computing" : "ready";
};

/** What a set's picture may be compared with, and what both are called. */
export function useTitles(set: TextureSet, chosen: string, isPreparing: boolean) {
  const { look, other, situation, isDisplaced } = useView(
    useShallow(({ look, other, situation, isDisplaced }) => ({
      look,
      other: other[look],
      situation,
      isDisplaced,
    })),
  );
  const { data: targets = [] } = useTargets();
  const seenBy = targets.map(({ target }): [Other, string] => [
    `target:${target.key}`,
    target.title,
  ]);
  const { environments } = useEnvironments();
  const starts = useStarts();
  const others = othersOf({
    set,
    look,
    chosen,
    other,
    situation,
    isDisplaced,
    environments,
    starts,
  });
  const isColor = isPreparing && "base_color" in set.recipe.masters;
  const shown = isColor ? "base_color" : chosen;
  const title = set.masters.find((m) => m.key === shown)?.title ?? shown;
  return {
    others,
    seenBy,
    here: { flat: title, lit: "As it is" },
    there: otherTitle(other, others, seenBy),
  };
}
