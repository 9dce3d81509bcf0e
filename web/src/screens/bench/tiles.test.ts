import { describe, expect, it } from "vitest";
import { cellsOf, layoutOf, seenIn } from "./tiles";

const TILES = [1002, 1003, 1012];

describe("tiles in the picture that shows them", () => {
  it("lie as their numbers say, rows upwards, in as little room as holds them", () => {
    expect(layoutOf(TILES)).toEqual({ columns: 2, rows: 2, left: 1, low: 0 });
    expect(cellsOf(TILES, "all")).toEqual([
      { tile: 1002, x: 0, y: 0.5, width: 0.5, height: 0.5 },
      { tile: 1003, x: 0.5, y: 0.5, width: 0.5, height: 0.5 },
      { tile: 1012, x: 0, y: 0, width: 0.5, height: 0.5 },
    ]);
  });

  it("fill it where one is shown, or where there are none", () => {
    expect(cellsOf(TILES, 1003)).toEqual([{ tile: 1003, x: 0, y: 0, width: 1, height: 1 }]);
    expect(cellsOf([], null)).toEqual([{ tile: null, x: 0, y: 0, width: 1, height: 1 }]);
    expect(cellsOf([], "all")[0].tile).toBeNull();
  });

  it("carry a place from one picture to another that has it", () => {
    const inOne = { u: 0.5, v: 0.25 };
    const inAll = seenIn(inOne, TILES, 1003, "all");
    expect(inAll).toEqual({ u: 0.75, v: 0.625 });
    expect(seenIn({ u: 0.75, v: 0.625 }, TILES, "all", 1003)).toEqual(inOne);
    expect(seenIn(inOne, TILES, 1003, 1003)).toBe(inOne);
  });

  it("have no place where another tile, or none, is", () => {
    expect(seenIn({ u: 0.1, v: 0.1 }, TILES, "all", 1003)).toBeNull();
    expect(seenIn({ u: 0.9, v: 0.1 }, TILES, "all", 1003)).toBeNull();
  });
});
