import { describe, expect, it } from "vitest";
import { bodyWorn, type OwnMesh, ownLight, tilesSeen } from "./names";

const REPEATS = { x: "wrap", y: "wrap" };
const ENDS = { x: "wrap", y: "end" };
const brought = { isWorn: false } as OwnMesh;
const worn = { isWorn: true } as OwnMesh;

describe("the body that a set is shown on", () => {
  it("is a ball, and a plane for what does not repeat both ways", () => {
    expect(bodyWorn(null, null, REPEATS)).toBe("ball");
    expect(bodyWorn(null, null, ENDS)).toBe("plane");
  });

  it("is what was chosen, whatever wears the set", () => {
    expect(bodyWorn("tube", worn, ENDS)).toBe("tube");
    expect(bodyWorn("tube", null, REPEATS)).toBe("tube");
  });

  it("is a mesh of one's own where that is chosen or wears the set", () => {
    expect(bodyWorn("own", brought, REPEATS)).toBe(brought);
    expect(bodyWorn(null, worn, REPEATS)).toBe(worn);
    expect(bodyWorn(null, brought, REPEATS)).toBe("ball");
  });

  it("is one of the house's where the mesh that was chosen is gone", () => {
    expect(bodyWorn("own", null, REPEATS)).toBe("ball");
  });

  it("shows a mesh's picture once, a tube's twice", () => {
    expect([tilesSeen(worn), tilesSeen("tube"), tilesSeen("plane")]).toEqual([1, 2, 1]);
  });
});

it("a picture of surroundings is told from a light of the house", () => {
  expect(ownLight("own:a1")).toBe("a1");
  expect(ownLight("indoor")).toBeNull();
});
