import { describe, expect, it } from "vitest";
import type { TextureSet } from "../../../api/client";
import type { MeshLook } from "../../../api/meshes";
import { hasMissed, markPictures, missedOf } from "./marks";

const whole = (sha256: string | null) => ({ whole: sha256, tiles: {} });
const look = { sha256: "ab", name: "clasp low.obj" } as MeshLook;

describe("what is drawn of a mesh over the picture it wears", () => {
  it("comes in one order whatever was asked for first, islands as lines and not as a picture", () => {
    const asked = markPictures(["missed", "stretch", "islands", "overlaps"], look, 1, whole("cd"));
    expect(asked.length).toBe(3);
    expect(asked[0]).toContain("overlaps");
    expect(asked[1]).toContain("stretch");
    expect(asked[2]).toBe("/api/missed/cd");
  });

  it("is nothing without a mesh, and no missed rays where none missed", () => {
    expect(markPictures(["stretch"], null, 0, whole(null))).toEqual([]);
    expect(markPictures(["missed"], look, 0, whole(null))).toEqual([]);
  });

  it("finds the misses of whichever map was baked with some", () => {
    const master = (missed_map: string | null, missed_in_tiles = {}) => ({
      given: { baked: { missed_map, missed_in_tiles } },
    });
    const set = (...masters: object[]) => ({ masters }) as unknown as TextureSet;
    expect(missedOf(set({ given: null }, master(null), master("ef")))).toEqual(whole("ef"));
    expect(hasMissed(missedOf(set({ given: null })))).toBe(false);
    const tiled = missedOf(set(master(null, { 1002: "gh" })));
    expect(hasMissed(tiled)).toBe(true);
    expect(markPictures(["missed"], look, 0, tiled, 1002)).toEqual(["/api/missed/gh"]);
    expect(markPictures(["missed"], look, 0, tiled, 1001)).toEqual([]);
  });

  it("asks for what lies in one tile where the set is in tiles", () => {
    const [url] = markPictures(["overlaps"], look, 0, whole(null), 1012);
    expect(url).toContain("tile=1012");
  });
});
