import { type Edit, withParam } from "./edit";

/** What a parameter's schema says of itself; the controls are drawn from it. */
export type Field = {
  title?: string;
  description?: string;
  minimum?: number;
  maximum?: number;
  default?: unknown;
  type?: string;
  unit?: string;
  scale?: number;
  sizes?: number[];
  enum?: string[];
  titles?: string[];
  more?: boolean;
  pick?: boolean;
  needs?: string;
  /** Names that a person has for values. */
  marks?: [string, number][];
};

/**
 * Where the values of some controls are kept: how to read them, and the recipe in which one is
 * another.
 */
export type Kept = {
  params: Record<string, unknown>;
  next: (name: string, value: unknown) => Edit["recipe"];
};

export const fieldsOf = (schema: Record<string, unknown>) =>
  Object.entries((schema as { properties?: Record<string, Field> }).properties ?? {});

/** Is a parameter told to be other than its default? */
export const isMoved = ({ params }: Kept, name: string, field: Field) =>
  name in params && JSON.stringify(params[name]) !== JSON.stringify(field.default);

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
