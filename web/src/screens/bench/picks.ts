import type { Texel } from "./stageProps";

/** A spot, or a part of one that was brushed, and what it was said to be. */
export type Pick = {
  x: number;
  y: number;
  value: number;
  tile?: number | null;
  stroke?: number | null; // of which brushed spot it is a part
};

/** How far apart the picks of a brushed spot lie, as a share of the width. */
const APART = 0.02;
const MOST_OF_A_STROKE = 60;
const EXACT = 1e-9;

/** Picks with one more spot: a click is one pick, a brushed spot as many as lie along it. */
export function withSpot(
  picks: Pick[],
  along: Texel[],
  value: number,
  tile: number | null = null,
): Pick[] {
  const spots = spread(along).map(({ u, v }) => ({ x: u, y: v, value, tile }));
  if (spots.length < 2) return [...picks, ...spots];
  const stroke = Math.max(-1, ...picks.map((pick) => pick.stroke ?? -1)) + 1;
  return [...picks, ...spots.map((spot) => ({ ...spot, stroke }))];
}

/** Picks without what was picked last, which may have been a whole brushed spot. */
export function withoutLast(picks: Pick[]): Pick[] {
  const stroke = picks.at(-1)?.stroke ?? null;
  return stroke === null ? picks.slice(0, -1) : picks.filter((pick) => pick.stroke !== stroke);
}

/** How many spots picks are: a brushed one counts once. */
export const spotsIn = (picks: Pick[]): number =>
  picks.filter(({ stroke }) => stroke == null).length +
  new Set(picks.map(({ stroke }) => stroke).filter((stroke) => stroke != null)).size;

/** Points evenly along a way: no nearer than tells something, no more than can be heard. */
export function spread(along: Texel[]): Texel[] {
  const ways = along.slice(1).map((to, k) => Math.hypot(to.u - along[k].u, to.v - along[k].v));
  const step = Math.max(APART, ways.reduce((sum, way) => sum + way, 0) / (MOST_OF_A_STROKE - 1));
  const kept = along.slice(0, 1);
  let left = step; // to go until the next point
  ways.forEach((way, k) => {
    for (let gone = left; gone <= way + EXACT; gone += step) {
      const share = gone / way;
      kept.push({
        u: along[k].u + share * (along[k + 1].u - along[k].u),
        v: along[k].v + share * (along[k + 1].v - along[k].v),
      });
      left += step;
    }
    left -= way;
  });
  return kept.map(({ u, v }) => ({ u: u % 1, v: v % 1 }));
}
