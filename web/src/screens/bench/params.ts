import type { Control } from "../../api/client";
import { type Edit, withParam } from "./edit";
import type { Pick } from "./picks";

/**
 * Where the values of some controls are kept: how to read them, and the recipe in which one is
 * another.
 */
export type Kept = {
  params: Record<string, unknown>;
  next: (name: string, value: unknown) => Edit["recipe"];
};

/** Is a parameter told to be other than its default? */
export const isMoved = ({ params }: Kept, { name, default: start }: Control) =>
  name in params && JSON.stringify(params[name]) !== JSON.stringify(start);

/** The parameters of one step. */
export const ofNode = ({ recipe }: Edit, node: string): Kept => ({
  params: recipe.nodes[node]?.params ?? {},
  next: (name, value) => withParam(recipe, node, name, value),
});

/** What corrects a given map; at its default a value is not told. */
export const ofSource = ({ recipe }: Edit, source: string, held: string): Kept => {
  const told = recipe.sources[source]?.corrections[held] ?? {};
  return {
    params: told,
    next: (name, value) => ({
      ...recipe,
      sources: {
        ...recipe.sources,
        [source]: {
          ...recipe.sources[source],
          corrections: {
            ...recipe.sources[source].corrections,
            [held]: { ...told, [name]: value },
          },
        },
      },
    }),
  };
};

/** A value that is kept, as a row of numbers: of bands, or of a color; empty where it is none. */
export const numbersIn = (value: unknown): number[] => (isListOf(value, isNumber) ? value : []);

/** A value that is kept, as words; null where there are none. */
export const wordsIn = (value: unknown): string | null =>
  typeof value === "string" ? value : null;

const NO_PICKS: Pick[] = []; // one and the same, so that the stage is not drawn anew for it

/** A value that is kept, as spots of the picture. */
export const picksIn = (value: unknown): Pick[] => (isListOf(value, isPick) ? value : NO_PICKS);

/** Is it a number? */
export const isNumber = (value: unknown): value is number => typeof value === "number";

const isListOf = <T>(value: unknown, is: (one: unknown) => one is T): value is T[] =>
  Array.isArray(value) && value.every(is);

const isPick = (value: unknown): value is Pick =>
  typeof value === "object" && value !== null && "x" in value && "y" in value && "value" in value;
