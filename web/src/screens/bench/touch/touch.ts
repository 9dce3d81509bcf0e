/** What is laid over a master, without React. */
import type { Recipe, TextureSet } from "../../../api/client";

export type Touch = Recipe["touches"][string];
export type Brushed = Touch["strokes"][number];

const NOTHING: Touch = { noise: null, strokes: [] };

export const touchOf = (recipe: Recipe, master: string): Touch => recipe.touches[master] ?? NOTHING;

/** The recipe with something else laid over a master. */
export function withTouch(recipe: Recipe, master: string, touch: Touch): Recipe {
  return { ...recipe, touches: { ...recipe.touches, [master]: touch } };
}

/** Normals get noise and no strokes: a stroke on the height turns them. Vectors of an object get neither. */
export const canBeTouched = (master: TextureSet["masters"][number]) =>
  master.key !== "object_normal";

/** What is laid over a master, behind where it comes from. */
export function touchSaid(recipe: Recipe, master: string): string {
  const { noise, strokes } = touchOf(recipe, master);
  const isPainted = strokes.some((stroke) => stroke.is_on);
  return `${noise?.amount ? " · with noise" : ""}${isPainted ? " · painted over" : ""}`;
}
