import { expect, test } from "vitest";
import { halvings, quartered } from "./subdivided";

test("a quartered triangle covers the same place, with its corners where they were", () => {
  const rows = new Float32Array([0, 0, 4, 0, 0, 4]);
  const made = quartered(rows, 2);
  expect(made.length).toBe(4 * rows.length);
  const areaOf = (k: number) => {
    const [ax, ay, bx, by, cx, cy] = made.subarray(6 * k, 6 * k + 6);
    return ((bx - ax) * (cy - ay) - (cx - ax) * (by - ay)) / 2;
  };
  // none is turned over, none lies on another's place
  expect([0, 1, 2, 3].map(areaOf)).toEqual([2, 2, 2, 2]);
  expect([...made.subarray(0, 2), ...made.subarray(8, 10), ...made.subarray(16, 18)]).toEqual([
    ...rows,
  ]);
});

test("a mesh is halved as often as there is room for, and never made coarser", () => {
  expect([600, 100_000, 100_001, 5_000_000].map(halvings)).toEqual([4, 1, 0, 0]);
});
