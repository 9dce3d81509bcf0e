import { describe, expect, it } from "vitest";
import { KIND_OF_KEY } from "../screens/intake/kinds";
import { KEYS, meaningAt, refusal, withKey } from "./keys";

describe("keys of one's own", () => {
  it("mean what the key did that they stand for, at their place alone", () => {
    const chosen = withKey({}, "bench", "c", "x");
    expect(meaningAt(chosen, "bench", "x")).toBe("c");
    expect(meaningAt(chosen, "bench", "c")).toBe("");
    expect(meaningAt(chosen, "intake", "c")).toBe("c");
    expect(meaningAt(chosen, "bench", "Escape")).toBe("Escape");
  });

  it("change places with what had the key, and can be put back", () => {
    const chosen = withKey({}, "bench", "c", "t");
    expect([meaningAt(chosen, "bench", "t"), meaningAt(chosen, "bench", "c")]).toEqual(["c", "t"]);
    expect(withKey(chosen, "bench", "c", "c").bench).toEqual({});
  });

  it("are refused where they would do two things", () => {
    expect(refusal({}, "bench", "a")).toContain("Open the assay");
    expect(refusal({}, "everywhere", "p")).toContain("photo");
    expect(refusal({}, "bench", "3")).toContain("place");
    expect(refusal({}, "bench", "F5")).toContain("Only one");
    expect(refusal({}, "bench", "t")).toBeNull();
  });
});

it("no key does two things at a place, and the list knows every key of a kind", () => {
  const everywhere = KEYS[0][2].map(([key]) => key);
  for (const [where, , rows] of KEYS.slice(1)) {
    const keys = [...rows.map(([key]) => key), ...everywhere];
    expect(new Set(keys).size, where).toBe(keys.length);
  }
  const intake = KEYS.find(([where]) => where === "intake")?.[2].map(([key]) => key) ?? [];
  expect(intake).toEqual(expect.arrayContaining(Object.keys(KIND_OF_KEY)));
});
