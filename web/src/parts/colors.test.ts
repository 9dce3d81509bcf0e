import { describe, expect, it } from "vitest";
import { codeOf, linearOf } from "./colors";

describe("colors as codes and in linear light", () => {
  it("meet at black, white and the middle of the standard", () => {
    expect(codeOf([0, 1, 0.2158605])).toBe("#00ff80");
    expect(linearOf("#ffffff")).toEqual([1, 1, 1]);
    expect(linearOf("#000")).toEqual([0, 0, 0]);
    expect(linearOf("BC8040")?.[0]).toBeCloseTo(0.5029, 4);
  });

  it("come back as they went, every step of a channel", () => {
    for (let step = 0; step < 256; step++) {
      const code = `#${step.toString(16).padStart(2, "0").repeat(3)}`;
      expect(codeOf(linearOf(code) ?? [])).toBe(code);
    }
  });

  it("take three digits for six, and nothing else for a code", () => {
    expect(linearOf(" #f80 ")).toEqual(linearOf("#ff8800"));
    for (const none of ["", "#ff", "#12345g", "red", "#1234567"]) expect(linearOf(none)).toBeNull();
  });

  it("bring what no code can say to the nearest", () => {
    expect(codeOf([-1, 2, 1.0001])).toBe("#00ffff");
  });
});
