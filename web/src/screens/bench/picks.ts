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

type Word = readonly [title: string, value: number];

/**
 * What a spot can be said to be, by the master that is picked for. High and low leave room for what
 * is higher and lower still.
 */
const WORDS: Record<string, readonly Word[]> = {
  height: [
    ["High", 0.9],
    ["Low", 0.1],
  ],
  roughness: [
    ["Dull", 0.9],
    ["Shiny", 0.1],
  ],
  metallic: [
    ["Metal", 1],
    ["Not metal", 0],
  ],
  opacity: [
    ["Solid", 1],
    ["Hole", 0],
  ],
  emissive: [
    ["Glows", 1],
    ["Does not", 0],
  ],
  mask: [
    ["Here", 1],
    ["Not here", 0],
  ],
};

/** What a mask is where nobody has said anything. */
const UNASKED: Record<string, number> = { metallic: 0, opacity: 1, emissive: 0, mask: 0 };

export const wordsFor = (about: string): readonly Word[] => WORDS[about] ?? WORDS.height;

/** What picks of one word alone come to, and what to say besides; null while none or both are said. */
export function wanting(about: string, picks: readonly Pick[]): string | null {
  const isSaid = ([, value]: Word) => picks.some((pick) => pick.value > 0.5 === value > 0.5);
  const words = wordsFor(about);
  const [said, unsaid] = [words.filter(isSaid), words.filter((word) => !isSaid(word))];
  if (!said.length || !unsaid.length) return null;
  const [[title], [other, value]] = [said[0], unsaid[0]];
  if (!(about in UNASKED))
    return `Show a ${other.toLowerCase()} spot too: one word alone tells little.`;
  return UNASKED[about] === value
    ? `So far “${title}” is only what looks like these spots. Say “${other}” of another to draw the line.`
    : `Nothing changes until you say “${other}” of a spot.`;
}
