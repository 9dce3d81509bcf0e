/**
 * The steps that a set's pictures go through, without React: their types, and where things lie on
 * the picture.
 */
import type { Recipe } from "../../../api/client";

export type Step = NonNullable<Recipe["frame"]>["steps"][number];
export type StepOf<K extends Step["kind"]> = Extract<Step, { kind: K }>;
export type Join = NonNullable<StepOf<"repeat">["x"]>;
export type Spot = StepOf<"spots">["spots"][number];
export type Point = [number, number];
/** A point of a stroke, and how hard it was pressed. */
export type Drawn = [x: number, y: number, pressure: number];

/** The corners of the picture: four points that change nothing. */
export const WHOLE: StepOf<"straighten">["points"] = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];

export const stepsOf = (recipe: Recipe): Step[] => recipe.frame?.steps ?? [];

/**
 * How many steps the picture under the hand has been through: what is placed by hand is placed
 * before its step.
 */
export const shownUpTo = (kind: Step["kind"], at: number, shows: "picture" | "result"): number =>
  kind === "spots" || shows === "result" ? at + 1 : at;

/** Row by row of a cut, which share of it the second copy shows: the line runs at its end. */
export function lineOf({ rows, columns, runs }: Join["cut"]): number[] {
  const shown = new Array<number>(rows).fill(0);
  let at = 0;
  runs.forEach((length, k) => {
    if (k % 2)
      for (let left = length, from = at; left > 0; ) {
        const row = Math.floor(from / columns);
        const here = Math.min(left, columns - (from % columns));
        shown[row] += here;
        left -= here;
        from += here;
      }
    at += length;
  });
  return shown.map((count) => count / columns);
}

/**
 * Both places where the picture changes from one copy to the other, in shares of the picture: the
 * line, and its twin one tile on. `rest` is the tile's side along the line: what lies over it is
 * the beginning again, so the line goes on as it began.
 */
export function linesOf(join: Join, axis: "x" | "y", rest: number): [Point[], Point[]] {
  const line = lineOf(join.cut);
  const place = (by: number) =>
    Array.from({ length: Math.floor(line.length / rest + 0.5) }, (_, k): Point => {
      const across = line[k % line.length] * join.overlap * join.side + by;
      const along = ((k + 0.5) / line.length) * rest;
      return axis === "x" ? [across, along] : [along, across];
    });
  return [place(0), place(join.side)];
}

/** Points as an SVG path over a picture of that size. */
export const pathOf = (
  points: readonly (readonly number[])[],
  width: number,
  height: number,
): string =>
  points
    .map(([x, y], k) => `${k ? "L" : "M"}${(x * width).toFixed(1)} ${(y * height).toFixed(1)}`)
    .join("");

/**
 * Points of a stroke without those that say nothing: nearer than a tenth of its radius to the one
 * before.
 */
export function thinned(points: readonly Drawn[], radius: number): Drawn[] {
  const kept: Drawn[] = [];
  for (const [x, y, pressure] of points) {
    const last = kept.at(-1);
    if (!last || Math.hypot(x - last[0], y - last[1]) > radius / 10)
      kept.push([round(x), round(y), round(pressure)]);
  }
  return kept;
}
const round = (share: number) => Math.round(share * 1e5) / 1e5;

/**
 * A brushed stroke as a spot: its middle, how far it reaches, and its line from there on. `aspect`
 * is the picture's width over its height.
 */
export function brushed(
  drawn: Drawn[],
  radius: number,
  aspect: number,
): Omit<Spot, "from_x" | "from_y"> {
  const brush = Math.min(radius, WIDEST_BRUSH);
  const span = (values: number[]) => [Math.min(...values), Math.max(...values)];
  const [[left, right], [top, bottom]] = [0, 1].map((axis) => span(drawn.map((one) => one[axis])));
  const inside = (value: number) => Math.min(1, Math.max(0, value));
  const [x, y] = [inside((left + right) / 2), inside((top + bottom) / 2)];
  return {
    x,
    y,
    across: Math.max(right - x, x - left) + brush,
    down: Math.max(bottom - y, y - top) / aspect + brush,
    path: drawn.map(([px, py]): Point => [px - x, py - y]),
    brush,
  };
}

const WIDEST_BRUSH = 0.05; // radius, as a share of the width
const LARGEST = 8192;

/**
 * The powers of two just under and just over a square's side; none where it is one, or is no
 * square.
 */
export function squareSizes(width: number, height: number): number[] {
  const under = 2 ** Math.floor(Math.log2(width));
  return width === height && width !== under
    ? [under, 2 * under].filter((px) => px <= LARGEST)
    : [];
}

/** What a resize costs, in words. */
export function resizedSaid(from: number, to: number): string {
  const percent = Math.abs(Math.round((100 * to) / from - 100));
  return to < from
    ? `${percent} % smaller: detail finer than ${((2 * from) / to).toFixed(1)} of today's texels is lost`
    : `${percent} % larger: nothing is lost, and nothing gets sharper`;
}
