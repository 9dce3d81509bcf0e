import { describe, expect, it } from "vitest";
import type { Recipe, TextureSet } from "../../../api/client";
import { type Brushed, canBeTouched, someNoise, touchOf, touchSaid, withTouch } from "./touch";

const recipeOf = (...tiles: (number | null)[]) =>
  ({
    sources: Object.fromEntries(tiles.map((tile, k) => [`s${k}`, { tile }])),
    touches: {},
  }) as unknown as Recipe;
const stroke = (said: Partial<Brushed> = {}) => ({ is_on: true, ...said }) as Brushed;

describe("what is laid over a map", () => {
  it("is nothing until something is, and says so behind where the map comes from", () => {
    const bare = recipeOf(null);
    expect(touchOf(bare, "height")).toEqual({ noise: null, strokes: [] });
    expect(touchSaid(bare, "height")).toBe("");
    const noisy = withTouch(bare, "height", { noise: someNoise(bare), strokes: [stroke()] });
    expect(touchSaid(noisy, "height")).toBe(" · with noise · painted over");
    expect(touchSaid(noisy, "roughness")).toBe("");
    expect(bare.touches).toEqual({});
  });

  it("counts neither noise of no amount nor strokes that are off", () => {
    const bare = recipeOf(null);
    const silent = { ...someNoise(bare), amount: 0 };
    const off = withTouch(bare, "height", { noise: silent, strokes: [stroke({ is_on: false })] });
    expect(touchSaid(off, "height")).toBe("");
  });

  it("begins as one noise over all tiles where there are tiles", () => {
    expect(someNoise(recipeOf(null)).is_over_tiles).toBe(false);
    expect(someNoise(recipeOf(1001, 1002)).is_over_tiles).toBe(true);
  });

  it("is not for vectors of an object", () => {
    const master = (key: string) => ({ key }) as TextureSet["masters"][number];
    expect(canBeTouched(master("normal"))).toBe(true);
    expect(canBeTouched(master("object_normal"))).toBe(false);
  });
});
