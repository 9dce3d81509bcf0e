import { describe, expect, it } from "vitest";
import { type Pick, spotsIn, spread, wanting, withoutLast, withSpot } from "./picks";

const along = (from: number, to: number, count = 101) =>
  Array.from({ length: count }, (_, k) => ({ u: from + ((to - from) * k) / (count - 1), v: 0.5 }));

describe("picks", () => {
  it("are one for a click and many for a brushed spot, which counts once and goes as one", () => {
    const clicked = withSpot([], [{ u: 0.1, v: 0.2 }], 1);
    expect(clicked).toEqual([{ x: 0.1, y: 0.2, value: 1, tile: null }]);
    const brushed = withSpot(clicked, along(0.2, 0.6), 0);
    expect(brushed.length).toBe(1 + 21);
    expect(spotsIn(brushed)).toBe(2);
    const again = withSpot(brushed, along(0.6, 0.7), 1, 1002);
    expect(new Set(again.slice(-3).map(({ stroke }) => stroke))).toEqual(new Set([1]));
    expect(again.at(-1)?.tile).toBe(1002);
    expect(withoutLast(again)).toEqual(brushed);
    expect(withoutLast(brushed)).toEqual(clicked);
    expect(withoutLast(clicked)).toEqual([]);
    expect(withoutLast([])).toEqual([]);
  });

  it("lie evenly along a way, however fast it was drawn, and on in the next copy", () => {
    const fast = spread([
      { u: 0.9, v: 0.5 },
      { u: 1.1, v: 0.5 },
      { u: 1.1, v: 0.7 },
    ]);
    expect(fast.length).toBe(21);
    expect(fast[5].u).toBeCloseTo(0);
    expect(fast[10].u).toBeCloseTo(0.1);
    expect(fast[20]).toEqual({ u: expect.closeTo(0.1), v: expect.closeTo(0.7) });
    const slow = spread(along(0.9, 1.1));
    expect(slow.map(({ u }) => u)).toEqual(fast.slice(0, 11).map(({ u }) => expect.closeTo(u)));
  });

  it("are never more than can be heard of one spot, which they cover whole", () => {
    const long = spread(along(0, 3));
    expect(long.length).toBe(60);
    expect(spread([{ u: 0.3, v: 0.3 }])).toEqual([{ u: 0.3, v: 0.3 }]);
    expect(spread([])).toEqual([]);
  });

  it("from before brushing was there count one each", () => {
    const old: Pick[] = [
      { x: 0.1, y: 0.1, value: 1 },
      { x: 0.2, y: 0.1, value: 0, stroke: null },
    ];
    expect(spotsIn(old)).toBe(2);
    expect(withoutLast(old)).toEqual(old.slice(0, 1));
  });
});

describe("one word alone", () => {
  const of = (...values: number[]) => values.map((value) => ({ x: 0.5, y: 0.5, value }));

  it("says what it comes to, and which other word is wanted", () => {
    expect(wanting("height", of(0.9))).toMatch(/Show a low spot/);
    expect(wanting("roughness", of(0.1, 0.1))).toMatch(/Show a dull spot/);
    expect(wanting("metallic", of(1))).toMatch(/“Metal” is only what looks .* “Not metal”/);
    expect(wanting("opacity", of(0))).toMatch(/“Hole” is only what looks .* “Solid”/);
    expect(wanting("metallic", of(0))).toMatch(/Nothing changes until you say “Metal”/);
    expect(wanting("opacity", of(1))).toMatch(/Nothing changes until you say “Hole”/);
  });

  it("is over with the other one, and has not begun without any", () => {
    for (const about of ["height", "metallic", "mask"]) {
      expect(wanting(about, [])).toBeNull();
      expect(wanting(about, of(1, 0))).toBeNull();
    }
  });
});
