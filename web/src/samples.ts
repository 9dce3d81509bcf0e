import type { Control, FormatRow, Recipe } from "./api/client";
import type { Edit } from "./screens/bench/edit";
import { askedOf } from "./screens/bench/prepare/asking";
import { stepsOf } from "./screens/bench/prepare/steps";

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
    preparing: {
      steps: stepsOf(recipe as Recipe),
      change: () => {},
      repeat: () => {},
      vary: () => {},
      follow: () => {},
      tryRepeat: () => {},
      tryStep: () => {},
      spot: () => {},
      another: () => {},
      add: () => {},
      askedAt: (_, step) => askedOf(step),
      spotsAt: () => [],
      isDeciding: false,
      isBusy: false,
      problem: null,
    },
    undo: () => {},
    redo: () => {},
    problem: null,
  };
  return { edit, kept };
}

/** For tests: the control of a number, or of what a part says else. */
export const controlOf = (name: string, part: Partial<Control> = {}): Control => ({
  name,
  title: name,
  description: "",
  kind: "number",
  default: null,
  unit: null,
  scale: 1,
  minimum: null,
  maximum: null,
  options: [],
  sizes: [],
  marks: [],
  is_seldom: false,
  needs: null,
  ...part,
});

const at8 = { depth: 8, sample: "uint" } as const;
const at16 = { depth: 16, sample: "uint" } as const;
const half = { depth: 16, sample: "float" } as const;
const float = { depth: 32, sample: "float" } as const;

const near = (...held: FormatRow["depths"]) =>
  [at8, at16, half, float].map((stored, k) => ({ stored, held: held[k] }));
const [whole, floats] = [near(at8, at16, at16, at16), near(half, float, half, float)];

/** What formats hold, as the server tells it. */
export const FORMATS: FormatRow[] = [
  { key: "png", depths: [at8, at16], nearest: whole, channels: [1, 2, 3, 4], is_layered: false },
  {
    key: "tiff",
    depths: [at8, at16, half, float],
    nearest: near(at8, at16, half, float),
    channels: [1, 2, 3, 4],
    is_layered: true,
  },
  { key: "exr", depths: [half, float], nearest: floats, channels: [1, 3, 4], is_layered: true },
  {
    key: "exr-tiled",
    depths: [half, float],
    nearest: floats,
    channels: [1, 3, 4],
    is_layered: false,
  },
  {
    key: "tga",
    depths: [at8],
    nearest: near(at8, at8, at8, at8),
    channels: [1, 3, 4],
    is_layered: false,
  },
  {
    key: "jpeg",
    depths: [at8],
    nearest: near(at8, at8, at8, at8),
    channels: [1, 3],
    is_layered: false,
  },
];
