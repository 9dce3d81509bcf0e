import { describe, expect, it } from "vitest";
import { KEY_OF_KIND, KIND_OF_KEY, KINDS } from "./kinds";

describe("what a file can be taken in as", () => {
  it("has a key of its own where it has one, and is found by it", () => {
    const keys = KINDS.map(([, , key]) => key).filter((key) => key !== "");
    expect(new Set(keys).size).toBe(keys.length);
    for (const key of keys) expect(KEY_OF_KIND[KIND_OF_KEY[key]]).toBe(key);
  });

  it("is told apart by its title", () => {
    expect(new Set(KINDS.map(([, title]) => title)).size).toBe(KINDS.length);
    expect(KIND_OF_KEY[""]).toBeUndefined();
  });
});
