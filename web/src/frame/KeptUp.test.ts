import { describe, expect, it } from "vitest";
import { type Done, keptSaid } from "./KeptUp";

const BOTH = { takes_newer: true, delivers_changes: true };
const kept = (told: object = {}, problems: Record<string, string> = {}) =>
  ({ heads: {}, problems, delivery: { created: new Date().toISOString(), ...told } }) as Done;

describe("what the strip says of what a project does by itself", () => {
  it("says nothing where it does nothing, and else what it does until something was done", () => {
    expect(keptSaid({ takes_newer: false, delivers_changes: false }, kept())).toBeNull();
    const said = keptSaid(BOTH, { heads: {}, problems: {}, delivery: null });
    expect(said?.text).toBe("By itself: takes newer files, delivers every change");
    expect(keptSaid({ ...BOTH, takes_newer: false }, undefined)?.text).toBe(
      "By itself: delivers every change",
    );
  });

  it("says how the last delivery is going and ended", () => {
    expect(keptSaid(BOTH, kept({ state: "running" }))?.text).toBe("Delivering again…");
    expect(keptSaid(BOTH, kept({ state: "done" }))?.text).toMatch(/^Delivered again, \d/);
    const full = keptSaid(BOTH, kept({ state: "failed", problem: "The disk is full." }));
    expect(full).toEqual({ text: "Not delivered again: The disk is full.", isProblem: true });
  });

  it("speaks first of what somebody has to do", () => {
    const said = keptSaid(BOTH, kept({ state: "done" }, { 1: "felt_N.png was changed." }));
    expect(said).toEqual({ text: "felt_N.png was changed.", isProblem: true });
  });

  it("does not tell of an old delivery where it delivers no more", () => {
    const said = keptSaid({ ...BOTH, delivers_changes: false }, kept({ state: "done" }));
    expect(said?.text).toBe("By itself: takes newer files");
  });
});
