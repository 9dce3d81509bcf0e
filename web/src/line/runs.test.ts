import { describe, expect, it } from "vitest";
import type { Delivery } from "../api/client";
import { isGoing, saidOf } from "./runs";

const run = (said: Partial<Delivery>): Delivery =>
  ({
    state: "done",
    folder: "wardrobe/2026-05-04",
    sent: [{ place: null }],
    done_units: 0,
    total_units: 0,
    problem: null,
    ...said,
  }) as unknown as Delivery;
const sent = (...places: (string | null)[]) => ({
  sent: places.map((place) => ({ place })) as never,
});

describe("what is said of a delivery", () => {
  it("is where its files went, the first few by name", () => {
    expect(saidOf(run({}))).toBe(
      "Written and read back equal, in deliveries / wardrobe / 2026-05-04",
    );
    expect(saidOf(run(sent("GAME/art", "GAME/art")))).toBe(
      "Written and read back equal, in GAME / art",
    );
    expect(saidOf(run(sent("A/x", "B/y", "C/z", null)))).toBe(
      "Written and read back equal, in A / x and B / y and 2 more",
    );
  });

  it("is how far it is, why it failed, or that it was stopped", () => {
    expect(saidOf(run({ state: "running", done_units: 3, total_units: 8 }))).toBe("38 %");
    expect(saidOf(run({ state: "waiting" }))).toBe("0 %");
    expect(saidOf(run({ state: "failed", problem: "The disk is full." }))).toBe(
      "The disk is full.",
    );
    expect(saidOf(run({ state: "cancelled" }))).toBe("Stopped; nothing was left behind.");
  });

  it("goes on while it waits or runs", () => {
    expect(
      (["waiting", "running", "done"] as const).map((state) => isGoing(run({ state }))),
    ).toEqual([true, true, false]);
    expect(isGoing(undefined)).toBe(false);
  });
});
