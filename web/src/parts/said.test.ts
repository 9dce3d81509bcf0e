import { describe, expect, it } from "vitest";
import { tied, whenSaid } from "./said";

describe("when something was done", () => {
  const now = new Date(2026, 2, 5, 16, 0);
  const said = (...then: [number, number, number, number, number]) =>
    whenSaid(new Date(...then).toISOString(), now);
  it("is a time today, and has the day before it where that is another", () => {
    expect(said(2026, 2, 5, 9, 5)).toMatch(/^0?9[:.]05/);
    expect(said(2026, 2, 4, 9, 5)).toMatch(/4.*, 0?9[:.]05/);
    expect(said(2026, 2, 4, 9, 5)).not.toContain("2026");
    expect(said(2025, 2, 5, 9, 5)).toContain("2025");
  });
});

it("keeps units with their numbers, and nothing else", () => {
  expect(tied("Rise 2 % → 5 %; size 64 × 64")).toBe("Rise 2\u00a0% → 5\u00a0%; size 64\u00a0× 64");
  expect(tied("tile width 2 m, 3 masters")).toBe("tile width 2\u00a0m, 3 masters");
});
