import { describe, expect, it } from "vitest";
import { errorOf, isChunkMissing, isWorthRetrying, Refusal } from "./failures";

describe("failures", () => {
  it("asks again where the server was gone, and gives up in the end", () => {
    expect(isWorthRetrying(0, new TypeError("Failed to fetch"))).toBe(true);
    expect(isWorthRetrying(1, new Refusal("gone", 503))).toBe(true);
    expect(isWorthRetrying(2, new TypeError("Failed to fetch"))).toBe(false);
  });
  it("never asks again what was refused", () => {
    expect(isWorthRetrying(0, new Refusal("no such set", 404))).toBe(false);
    expect(isWorthRetrying(0, new Refusal("changed elsewhere", 409))).toBe(false);
  });
  it("knows a renewed program by the part that is missing", () => {
    expect(isChunkMissing(new TypeError("Failed to fetch dynamically imported module: x"))).toBe(
      true,
    );
    expect(isChunkMissing(new Error("anything else"))).toBe(false);
  });
});

describe("what was thrown", () => {
  it("is told in its own words, an error or not", () => {
    const refused = new Refusal("No room on the disk.", 507);
    expect(errorOf(refused)).toBe(refused);
    expect(errorOf("no such folder").message).toBe("no such folder");
  });
});
