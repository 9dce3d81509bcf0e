import { describe, expect, it } from "vitest";
import { goesSaid } from "./DeleteProject";

describe("what goes with a project", () => {
  it("is said in sets and in bytes that only it uses", () => {
    expect(goesSaid({ sets: 3, bytes: 120e6 })).toBe(
      "3 sets go with all their steps, and 120 MB of files that no other project uses.",
    );
    expect(goesSaid({ sets: 1, bytes: 0 })).toBe(
      "1 set goes with all its steps; its files stay, as other projects use them.",
    );
    expect(goesSaid({ sets: 0, bytes: 0 })).toBe("It holds no sets.");
  });
});
