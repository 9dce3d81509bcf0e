import { describe, expect, it } from "vitest";
import { carried } from "./carried";

describe("what a hand changed, carried over to what came meanwhile", () => {
  it("keeps both changes where they touch different parts", () => {
    const before = { nodes: { height: { params: { contrast: 1, blur: 0 } } }, frame: null };
    const wanted = { nodes: { height: { params: { contrast: 2, blur: 0 } } }, frame: null };
    const now = {
      nodes: { height: { params: { contrast: 1, blur: 3 } } },
      frame: { steps: [1] },
    } as unknown as typeof before;
    expect(carried(before, wanted, now)).toEqual({
      nodes: { height: { params: { contrast: 2, blur: 3 } } },
      frame: { steps: [1] },
    });
  });

  it("takes the hand's own where both changed one part", () => {
    expect(carried({ a: 1 }, { a: 2 }, { a: 3 })).toEqual({ a: 2 });
  });

  it("adds and takes away parts, and leaves what was added or taken away meanwhile", () => {
    type Parts = Record<string, number>;
    const before: Parts = { kept: 1, mine: 1, theirs: 1 };
    const wanted: Parts = { kept: 1, theirs: 1, new: 5 };
    const now: Parts = { kept: 1, mine: 1, other: 7 };
    expect(carried(before, wanted, now)).toEqual({ kept: 1, new: 5, other: 7 });
  });

  it("goes through lists of one length part by part, as four corners are", () => {
    const corners = [
      [0, 0],
      [1, 0],
      [1, 1],
    ];
    const wanted = corners.with(0, [0.1, 0]);
    const now = corners.with(2, [0.9, 1]);
    expect(carried(corners, wanted, now)).toEqual([
      [0.1, 0],
      [1, 0],
      [0.9, 1],
    ]);
  });

  it("takes a list whole where its length is another", () => {
    expect(carried([1, 2], [1], [1, 2, 3])).toEqual([1]);
    expect(carried([1, 2], [1, 2], [1, 2, 3])).toEqual([1, 2, 3]);
  });

  it("is what is wanted where nothing came meanwhile", () => {
    const before = { a: [1] };
    const wanted = { a: [2] };
    expect(carried(before, wanted, before)).toBe(wanted);
  });
});
