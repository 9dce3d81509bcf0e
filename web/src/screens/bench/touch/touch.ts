/** What is laid over a master, without React. */
import type { Recipe, TextureSet } from "../../../api/client";

export type Touch = Recipe["touches"][string];
export type Brushed = Touch["strokes"][number];

const NOTHING: Touch = { noise: null, strokes: [] };

export const touchOf = (recipe: Recipe, master: string): Touch => recipe.touches[master] ?? NOTHING;

/** Noise to begin with; over a set in tiles it is one that goes on from each to the next. */
export const someNoise = (recipe: Recipe): NonNullable<Touch["noise"]> => ({
  kind: "cloud",
  amount: 0.03,
  size: 0.05,
  way: "add",
  seed: 1,
  is_over_tiles: isInTiles(recipe),
});

export const isInTiles = (recipe: Recipe): boolean =>
  Object.values(recipe.sources).some((source) => source.tile != null);

/** The recipe with something else laid over a master. */
export function withTouch(recipe: Recipe, master: string, touch: Touch): Recipe {
  return { ...recipe, touches: { ...recipe.touches, [master]: touch } };
}

/**
 * Normals get noise and no strokes: a stroke on the height turns them. Vectors of an object get
 * neither.
 */
export const canBeTouched = (master: TextureSet["masters"][number]) =>
  master.key !== "object_normal";

/** What is laid over a master, behind where it comes from. */
export function touchSaid(recipe: Recipe, master: string): string {
  const { noise, strokes } = touchOf(recipe, master);
  const isPainted = strokes.some((stroke) => stroke.is_on);
  return `${noise?.amount ? " · with noise" : ""}${isPainted ? " · painted over" : ""}`;
}
