import { describe, expect, it } from "vitest";
import {
  channelOf,
  detailWanted,
  differenceOf,
  drawOver,
  FIT,
  panned,
  placeUnder,
  texelUnder,
  tileAt,
  zoomed,
} from "./flat";

const stage = { width: 800, height: 600 };
const tile = { width: 512, height: 256 };

describe("the flat stage", () => {
  it("fits the whole picture and shows its middle in the middle", () => {
    const at = tileAt(stage, tile, 1, FIT);
    expect(at.x + at.width / 2).toBeCloseTo(400);
    expect(at.y + at.height / 2).toBeCloseTo(300);
    expect(at.width / at.height).toBeCloseTo(2);
  });

  it("lets tiles meet on whole pixels, so that no seam shows that is not in the picture", () => {
    const drawn: number[][] = [];
    const context = {
      drawImage: (_: unknown, ...box: number[]) => drawn.push(box),
    } as unknown as CanvasRenderingContext2D;
    const at = { x: 10.3, y: -7.6, width: 100.4, height: 63.3 };
    drawOver(context, at, {} as CanvasImageSource, 3);
    expect(drawn.length).toBe(9);
    expect(drawn.flat().every(Number.isInteger)).toBe(true);
    for (const [k, [x, y, width, height]] of drawn.entries()) {
      if (k % 3 < 2) expect(x + width).toBe(drawn[k + 1][0]);
      if (k < 6) expect(y + height).toBe(drawn[k + 3][1]);
    }
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

  it("counts places on through the copies, for whoever brushes across a border", () => {
    const at = tileAt(stage, tile, 2, FIT);
    const second = { x: at.x + at.width * 1.25, y: at.y + at.height * 1.5 };
    expect(placeUnder(second, stage, tile, 2, FIT)?.u).toBeCloseTo(1.25);
    expect(placeUnder(second, stage, tile, 2, FIT)?.v).toBeCloseTo(1.5);
  });

  it("zooms no closer than texels can be told, and no farther than a picture can be seen", () => {
    const middle = { x: 400, y: 300 };
    expect(zoomed(FIT, 1e9, middle, stage, tile, 1).scale).toBe(512 * 64);
    expect(zoomed(FIT, 1e-9, middle, stage, tile, 1).scale).toBe(32);
  });
});

describe("pictures", () => {
  const picture = (...bytes: number[]) => ({
    width: bytes.length / 4,
    height: 1,
    bytes: new Uint8Array(bytes).buffer,
  });

  it("differ by their bytes, times the gain, and say nothing of other sizes", () => {
    const [a, b] = [picture(10, 20, 30, 255, 0, 0, 0, 0), picture(12, 20, 20, 0, 100, 0, 0, 0)];
    expect([...(differenceOf(a, b, 4) ?? [])]).toEqual([8, 0, 40, 255, 255, 0, 0, 255]);
    expect(differenceOf(a, picture(1, 2, 3, 4), 1)).toBeNull();
  });

  it("show one channel as gray, whatever their opacity", () => {
    expect([...new Uint8Array(channelOf(picture(1, 2, 3, 0), 1))]).toEqual([2, 2, 2, 255]);
  });
});
