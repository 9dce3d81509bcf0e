import { describe, expect, it } from "vitest";
import { speedometer, viewOf } from "./inView";

describe("the cards in view", () => {
  it("has as many columns as fit, and one where none does", () => {
    expect([100, 230, 475, 476, 1244].map((width) => viewOf(width, 0, 700).columns)).toEqual([
      1, 1, 1, 2, 5,
    ]);
  });

  it("begins at the first row, and holds all that is seen", () => {
    const { from, to, rowPx } = viewOf(1244, 0, 700);
    expect(from).toBe(0);
    expect(to * rowPx).toBeGreaterThan(700);
  });

  it("goes along, with rows to spare on both sides", () => {
    const { from, to, rowPx } = viewOf(1244, 10_000, 700);
    expect(from * rowPx).toBeLessThan(10_000 - rowPx);
    expect(to * rowPx).toBeGreaterThan(10_700 + rowPx);
    expect(to - from).toBeLessThan(10);
  });

  it("never is without a row, wherever it was scrolled to", () => {
    const { from, to } = viewOf(1244, -5000, 0);
    expect(from).toBe(0);
    expect(to).toBe(1);
  });
});

describe("how fast the tray is scrolled", () => {
  const told = (px: number, every: number, count: number) => {
    const speed = speedometer();
    return Array.from({ length: count }, (_, k) => speed(k * px, 1000 + k * every)).filter(
      (one) => one !== null,
    );
  };

  it("is told over several moves, as frames come unevenly", () => {
    expect(told(20, 16, 4)).toEqual([]);
    expect(told(20, 16, 20).every((one) => Math.abs(one - 1.25) < 0.01)).toBe(true);
    expect(told(20, 16, 20).length).toBeGreaterThan(2);
  });

  it("says nothing of single moves, however far they go", () => {
    expect(told(5000, 400, 10)).toEqual([]);
  });

  it("is the same upwards", () => {
    expect(told(-90, 16, 8)[0]).toBeCloseTo(90 / 16);
  });
});
