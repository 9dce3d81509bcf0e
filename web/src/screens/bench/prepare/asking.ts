/** What has to be looked at before it is a step: asked of the server, and nothing of it kept. */
import { api, type Recipe, settled } from "../../../api/client";
import type { Spot, Step, StepOf } from "./steps";

export type RepeatAsked = Pick<
  StepOf<"repeat">,
  "sides" | "overlap" | "guide" | "period" | "is_square" | "evens"
> & {
  x: boolean;
  y: boolean;
};

export type Vary = Pick<StepOf<"variant">, "seed" | "cells">;

/** What a repeat was asked for, to be asked again. */
export const askedOf = ({
  x,
  y,
  sides,
  overlap,
  guide,
  period,
  is_square,
  evens,
}: StepOf<"repeat">): RepeatAsked => ({
  x: x !== null,
  y: y !== null,
  sides,
  overlap,
  guide,
  period,
  is_square,
  evens,
});

/** How the picture after the steps before `at` is made to repeat. */
export const repeatFor = (recipe: Recipe, at: number, asked: RepeatAsked, isQuick = false) =>
  settled(api.POST("/api/repeats", { body: { recipe, at, ...asked, is_quick: isQuick } }));

/** Which pieces of the picture after the steps before `at` make another one. */
export const piecesFor = (recipe: Recipe, at: number, { seed, cells }: Vary) =>
  settled(api.POST("/api/variants", { body: { recipe, at, seed, cells } }));

/** The places that a spot is best filled from, the best first. */
export const placesFor = (recipe: Recipe, at: number, spot: Omit<Spot, "from_x" | "from_y">) => {
  const { x, y, across, down, path, brush } = spot;
  return settled(api.POST("/api/spots", { body: { recipe, at, x, y, across, down, path, brush } }));
};

/**
 * Steps whose picture has changed from `first` on: what was decided by looking at it is decided
 * anew. Where it no longer repeats, a variant out of its pieces is switched off.
 */
export async function anew(recipe: Recipe, steps: Step[], first: number): Promise<Step[]> {
  const next = [...steps];
  for (let k = first; k < next.length; k++) {
    const step = next[k];
    if (!step.is_on) continue;
    if (step.kind === "repeat")
      next[k] = await repeatFor(withSteps(recipe, next), k, askedOf(step));
    if (step.kind === "variant" && step.pieces)
      next[k] = (await repeats(recipe, next.slice(0, k)))
        ? await piecesFor(withSteps(recipe, next), k, step)
        : { ...step, is_on: false };
  }
  return next;
}

/** Whether the picture goes on past all its borders after these steps. */
async function repeats(recipe: Recipe, steps: Step[]) {
  const { facts } = await settled(api.POST("/api/prepared", { body: { recipe, steps } }));
  return facts.edges.x === "wrap" && facts.edges.y === "wrap";
}

/** The recipe with other steps, as far as what is asked here looks at it. */
export function withSteps(recipe: Recipe, steps: Step[]): Recipe {
  const { width, height, edges } = recipe.facts;
  return { ...recipe, frame: { ...(recipe.frame ?? { width, height, edges }), steps } };
}
