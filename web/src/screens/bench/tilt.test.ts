import { expect, it } from "vitest";
import { riseFor, tiltOf } from "./tilt";

const slopes = [0, 1, 2, 5, 10, 40];

it("says how far a rise leans, and which rise leans so far", () => {
  expect(tiltOf([1, 1], 1)).toEqual({ mean: expect.closeTo(45), steepest: expect.closeTo(45) });
  expect(tiltOf(slopes, riseFor(slopes, 12)).mean).toBeCloseTo(12, 1);
  expect(tiltOf(slopes, 0.05).steepest).toBeGreaterThan(tiltOf(slopes, 0.05).mean);
});

it("leaves what is flat flat", () => {
  expect(tiltOf([0, 0], 1).mean).toBe(0);
  expect(riseFor([0, 0], 12)).toBe(1);
});
