import { describe, expect, it } from "vitest";
import type { TextureSet } from "../../../api/client";
import type { MeshLook } from "../../../api/meshes";
import { markPictures, missedOf } from "./marks";

const look = { sha256: "ab", name: "clasp low.obj" } as MeshLook;

describe("what is drawn of a mesh over the picture it wears", () => {
  it("comes in one order whatever was asked for first, islands as lines and not as a picture", () => {
    const asked = markPictures(["missed", "stretch", "islands", "overlaps"], look, 1, "cd");
    expect(asked.length).toBe(3);
    expect(asked[0]).toContain("overlaps");
    expect(asked[1]).toContain("stretch");
    expect(asked[2]).toBe("/api/missed/cd");
  });

  it("is nothing without a mesh, and no missed rays where none missed", () => {
    expect(markPictures(["stretch"], null, 0, null)).toEqual([]);
    expect(markPictures(["missed"], look, 0, null)).toEqual([]);
  });

  it("finds the misses of whichever map was baked with some", () => {
    const master = (missed_map: string | null) => ({ given: { baked: { missed_map } } });
    const set = (...masters: object[]) => ({ masters }) as unknown as TextureSet;
    expect(missedOf(set({ given: null }, master(null), master("ef")))).toBe("ef");
    expect(missedOf(set({ given: null }))).toBeNull();
  });
});
