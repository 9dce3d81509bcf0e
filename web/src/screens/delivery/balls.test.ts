import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Balls, drawBall } from "./balls";

/** One texel under two lamps: the target's side first, then the masters'. */
const BALLS: Balls = {
  px: 1,
  lamps: 2,
  values: Float32Array.of(0.2, 0.2, 0.2, 0.6, 0.6, 0.6, 0.2, 0.2, 0.2, 0.5, 0.6, 2),
};

function drawn(lamp: number, side: number, gain = 1): number[] {
  let put: number[] = [];
  const context = { putImageData: ({ data }: ImageData) => (put = [...data]) };
  drawBall({ getContext: () => context } as never, BALLS, lamp, side, gain);
  return put;
}

describe("a ball of the proof", () => {
  beforeEach(() =>
    vi.stubGlobal(
      "ImageData",
      class {
        data: Uint8ClampedArray;
        constructor(width: number, height: number) {
          this.data = new Uint8ClampedArray(4 * width * height);
        }
      },
    ),
  );
  afterEach(() => vi.unstubAllGlobals());

  it("shows the masters, then what the target makes of its files, each under its lamp", () => {
    expect(drawn(0, 0)).toEqual([51, 51, 51, 255]);
    expect(drawn(1, 1)).toEqual([153, 153, 153, 255]);
  });

  it("shows what is brighter than a display as white", () => {
    expect(drawn(1, 0)[2]).toBe(255);
  });

  it("takes the difference before it is rounded, and makes it larger", () => {
    expect(drawn(0, 2)).toEqual([0, 0, 0, 255]);
    expect(drawn(1, 2, 4).slice(0, 2)).toEqual([102, 0]); // (0.6 − 0.5) · 4
  });
});
