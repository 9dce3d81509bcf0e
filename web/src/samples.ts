import type { Recipe } from "./api/client";
import type { Edit } from "./screens/bench/edit";

/**
 * For tests: a part drawn while a store holds something else; what is drawn once sees what it began
 * with.
 */
export function during<S extends object, D>(
  store: { getInitialState: () => S },
  held: Partial<S>,
  draw: () => D,
): D {
  const first = store.getInitialState();
  const before = { ...first };
  try {
    Object.assign(first, held);
    return draw();
  } finally {
    Object.assign(first, before);
  }
}

/** For tests: a recipe in hand, which keeps what it was given last. */
export function inHand(recipe: object): { edit: Edit; kept: Recipe[] } {
  const kept: Recipe[] = [];
  const edit: Edit = {
    recipe: recipe as Recipe,
    isMoving: false,
    move: () => {},
    keep: (next) => void kept.push(next),
    writeSteps: async () => undefined as never,
    undo: () => {},
    redo: () => {},
    problem: null,
  };
  return { edit, kept };
}
