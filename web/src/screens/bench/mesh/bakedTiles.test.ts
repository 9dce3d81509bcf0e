import { describe, expect, it } from "vitest";
import type { TextureSet } from "../../../api/client";
import { bakedTiles } from "./bakedTiles";

const set = (tiles: number[], ...sources: { baked: object | null }[]) =>
  ({
    tiles,
    recipe: { sources: Object.fromEntries(sources.map((one, k) => [k, one])) },
  }) as never as TextureSet;
const asFound = { is_in_tiles: null };
const OF_MESH = { tiles: [1001, 1002], are_copies: false };

describe("the tiles that are baked", () => {
  it("are those of the mesh where the set has no files of its own, unless that was switched off", () => {
    expect(bakedTiles(set([]), asFound, OF_MESH)).toEqual(OF_MESH.tiles);
    expect(bakedTiles(set(OF_MESH.tiles, { baked: {} }), asFound, OF_MESH)).toEqual(OF_MESH.tiles);
    expect(bakedTiles(set([]), { is_in_tiles: false }, OF_MESH)).toEqual([]);
    expect(bakedTiles(set([]), asFound, { tiles: [1001], are_copies: false })).toEqual([]);
  });

  it("are not copies of the first, unless that was asked for", () => {
    const copies = { ...OF_MESH, are_copies: true };
    expect(bakedTiles(set([]), asFound, copies)).toEqual([]);
    expect(bakedTiles(set([]), { is_in_tiles: true }, copies)).toEqual(OF_MESH.tiles);
  });

  it("are told by the files of a set that has some", () => {
    expect(bakedTiles(set([], { baked: null }), { is_in_tiles: true }, OF_MESH)).toEqual([]);
    expect(bakedTiles(set([1001], { baked: null }), { is_in_tiles: false }, OF_MESH)).toEqual(
      OF_MESH.tiles,
    );
  });
});
