import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../api/client";
import { drawn } from "../../drawn";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { Ways } = await import("./SaveMap");

const MASTER = { key: "height", title: "Height" } as unknown as TextureSet["masters"][number];

function ways(seconds: number, tiles: number[] = []) {
  const set = { id: "1", head: 2, tiles } as unknown as TextureSet;
  const written = [{ key: "height", title: "Height" }];
  const stored = [{ key: "png-16", title: "PNG, 16 bit" }];
  return drawn(<Ways set={set} master={MASTER} isBusy={false} />, [
    [["writings", "1", 2, "height"], { ways: written, stored, seconds }],
  ]).text;
}

describe("one map as a file", () => {
  it("says before it begins that it takes long, where it does", () => {
    expect(ways(24)).toContain("It takes about 20 seconds.");
    expect(ways(3)).not.toContain("takes about");
  });

  it("of a set in tiles is that of one of them, by its number", () => {
    expect(ways(3, [1001, 1002])).toContain("Save tile 1001");
    expect(ways(3)).toMatch(/Save$/);
  });
});
