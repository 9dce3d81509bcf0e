import { describe, expect, it } from "vitest";
import {
  brushed,
  type Drawn,
  type Join,
  lineOf,
  linesOf,
  pathOf,
  resizedSaid,
  shownUpTo,
  squareSizes,
  thinned,
} from "./steps";

const join = {
  side: 0.8,
  overlap: 0.25,
  cut: { rows: 2, columns: 4, runs: [0, 1, 3, 3, 1] },
  light: [],
  level: [],
  rest: "met" as const,
  alike: {},
} as Join;

describe("the line of a repeat", () => {
  it("is read from its runs, also where a run goes over the end of a row", () => {
    expect(lineOf(join.cut)).toEqual([0.25, 0.75]);
    expect(lineOf({ rows: 2, columns: 2, runs: [1, 3] })).toEqual([0.5, 1]);
  });
  it("has its twin one tile on", () => {
    const [line, twin] = linesOf(join, "x", 1);
    expect(line).toEqual([
      [0.05, 0.25],
      [expect.closeTo(0.15), 0.75],
    ]);
    expect(twin[0][0] - line[0][0]).toBeCloseTo(0.8);
    expect(linesOf(join, "y", 0.5)[0][1]).toEqual([0.375, expect.closeTo(0.15)]);
  });
  it("goes on as it began where the picture is broader than the tile", () => {
    const [line] = linesOf(join, "y", 0.5);
    expect(line.map(([x]) => x)).toEqual([0.125, 0.375, 0.625, 0.875]);
    expect(line[2][1]).toBe(line[0][1]);
    expect(linesOf(join, "y", 0.6)[0]).toHaveLength(3);
  });
});

it("is placed before its own step, spots after it", () => {
  expect([shownUpTo("repeat", 2, "picture"), shownUpTo("spots", 2, "picture")]).toEqual([2, 3]);
  expect(shownUpTo("straighten", 0, "result")).toBe(1);
});

it("strokes keep only points that say something", () => {
  const points = Array.from({ length: 100 }, (_, k): Drawn => [k / 1000, 0, 1]);
  expect(thinned(points, 0.05).length).toBeLessThan(20);
  expect(
    pathOf(
      [
        [0, 0],
        [0.5, 1],
      ],
      100,
      50,
    ),
  ).toBe("M0.0 0.0L50.0 50.0");
});

it("a square tile is offered the powers of two beside it, with what they cost", () => {
  expect([squareSizes(877, 877), squareSizes(1024, 1024), squareSizes(877, 800)]).toEqual([
    [512, 1024],
    [],
    [],
  ]);
  expect(squareSizes(8200, 8200)).toEqual([8192]);
  expect(resizedSaid(877, 1024)).toBe("17 % larger: nothing is lost, and nothing gets sharper");
  expect(resizedSaid(1000, 500)).toContain("finer than 4.0 of today's texels is lost");
});

it("a brushed stroke is a spot around its middle, however wide the picture is", () => {
  const spot = brushed(
    [
      [0.2, 0.4, 1],
      [0.4, 0.6, 1],
    ],
    0.02,
    2,
  );
  expect([spot.x, spot.y, spot.brush]).toEqual([expect.closeTo(0.3), 0.5, 0.02]);
  expect([spot.across, spot.down]).toEqual([expect.closeTo(0.12), expect.closeTo(0.07)]);
  expect(spot.path[0]).toEqual([expect.closeTo(-0.1), expect.closeTo(-0.1)]);
  expect(brushed([[1.2, 0.5, 1]], 0.2, 1)).toMatchObject({ x: 1, brush: 0.05 });
});
