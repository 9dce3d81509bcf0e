/** What has to be looked at before it is a step: asked of the server, and nothing of it kept. */
import { api, settled } from "../../../api/client";
import type { Edit } from "../edit";
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
export const repeatFor = (
  edit: Edit,
  at: number,
  asked: RepeatAsked,
  steps: Step[],
  isQuick = false,
) =>
  settled(
    api.POST("/api/repeats", {
      body: {
        recipe: { ...edit.recipe, frame: withSteps(edit, steps) },
        at,
        ...asked,
        is_quick: isQuick,
      },
    }),
  );

/** Which pieces of the picture after the steps before `at` make another one. */
export const piecesFor = (edit: Edit, at: number, { seed, cells }: Vary, steps: Step[]) =>
  settled(
    api.POST("/api/variants", {
      body: { recipe: { ...edit.recipe, frame: withSteps(edit, steps) }, at, seed, cells },
    }),
  );

/** The places that a spot is best filled from, the best first. */
export const placesFor = (
  edit: Edit,
  at: number,
  { x, y, across, down, path, brush }: Omit<Spot, "from_x" | "from_y">,
  steps: Step[],
) =>
  settled(
    api.POST("/api/spots", {
      body: {
        recipe: { ...edit.recipe, frame: withSteps(edit, steps) },
        at,
        x,
        y,
        across,
        down,
        path,
        brush,
      },
    }),
  );

/**
 * Steps whose picture has changed from `first` on: what was decided by looking at it is decided
 * anew. Where it no longer repeats, a variant out of its pieces is switched off.
 */
export async function anew(edit: Edit, steps: Step[], first: number): Promise<Step[]> {
  const next = [...steps];
  for (let k = first; k < next.length; k++) {
    const step = next[k];
    if (!step.is_on) continue;
    if (step.kind === "repeat") next[k] = await repeatFor(edit, k, askedOf(step), next);
    if (step.kind === "variant" && step.pieces)
      next[k] = (await repeats(edit, next.slice(0, k)))
        ? await piecesFor(edit, k, step, next)
        : { ...step, is_on: false };
  }
  return next;
}

/** Whether the picture goes on past all its borders after these steps. */
async function repeats(edit: Edit, steps: Step[]) {
  const body = { recipe: edit.recipe, steps };
  const { facts } = await settled(api.POST("/api/prepared", { body }));
  return facts.edges.x === "wrap" && facts.edges.y === "wrap";
}

const withSteps = (edit: Edit, steps: Step[]) => {
  const { facts, frame } = edit.recipe;
  const { width, height, edges } = facts;
  return { ...(frame ?? { width, height, edges }), steps };
};
