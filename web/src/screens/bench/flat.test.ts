import { describe, expect, it } from "vitest";
import { detailWanted, FIT, panned, texelUnder, tileAt, zoomed } from "./flat";

const stage = { width: 800, height: 600 };
const tile = { width: 512, height: 256 };

describe("the flat stage", () => {
  it("fits the whole picture and shows its middle in the middle", () => {
    const at = tileAt(stage, tile, 1, FIT);
    expect(at.x + at.width / 2).toBeCloseTo(400);
    expect(at.y + at.height / 2).toBeCloseTo(300);
    expect(at.width / at.height).toBeCloseTo(2);
  });

  it("keeps what is under the pointer under it while zooming", () => {
    const point = { x: 520, y: 280 };
    const before = texelUnder(point, stage, tile, 1, FIT);
    const camera = zoomed(FIT, 3, point, stage, tile, 1);
    const after = texelUnder(point, stage, tile, 1, camera);
    expect(after?.u).toBeCloseTo(before?.u ?? -1);
    expect(after?.v).toBeCloseTo(before?.v ?? -1);
  });

  it("moves by exactly the pixels of the hand, and back", () => {
    const there = panned(FIT, { x: 37, y: -12 }, stage, tile, 2);
    const at = tileAt(stage, tile, 2, there);
    const from = tileAt(stage, tile, 2, FIT);
    expect([at.x - from.x, at.y - from.y].map(Math.round)).toEqual([37, -12]);
    const back = tileAt(stage, tile, 2, panned(there, { x: -37, y: 12 }, stage, tile, 2));
    expect(back.x).toBeCloseTo(from.x);
  });

  it("repeats texels over tiles and knows none beside them", () => {
    const at = tileAt(stage, tile, 2, FIT);
    const second = { x: at.x + at.width * 1.25, y: at.y + at.height * 0.5 };
    expect(texelUnder(second, stage, tile, 2, FIT)?.u).toBeCloseTo(0.25);
    expect(texelUnder({ x: 0, y: 0 }, stage, tile, 1, FIT)).toBeNull();
  });

  it("asks for texels of its own only where the screen has more than the picture", () => {
    const own = { width: 4096, height: 2048 };
    expect(detailWanted(stage, tile, own, 1, { scale: 400, x: 0.5, y: 0.5 })).toBeNull();
    const near = detailWanted(stage, tile, own, 1, { scale: 4096, x: 0.5, y: 0.5 });
    expect(near).toMatchObject({ width: 800, height: 600 });
    expect(detailWanted(stage, tile, tile, 1, { scale: 4096, x: 0.5, y: 0.5 })).toBeNull();
  });
});
