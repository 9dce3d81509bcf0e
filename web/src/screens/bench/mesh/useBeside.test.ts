import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../../api/client";
import type { MeshLook } from "../../../api/meshes";

vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => {} });
const { setOf } = await import("./useBeside");

const look = {
  sha256: "ab",
  materials: [{ name: "Brass" }, { name: "Horn" }, { name: "" }],
} as MeshLook;
const set = (name: string, worn: object | null = null) =>
  ({ name, recipe: { worn } }) as unknown as TextureSet;
const wornAs = (sha256: string, material: number) => ({ low: { sha256 }, material });

describe("which set a material of a mesh is", () => {
  it("is the one that the mesh wears as it, whatever that is called", () => {
    const sets = [set("horn"), set("other", wornAs("ab", 1)), set("third", wornAs("cd", 1))];
    expect(setOf(look, 1, sets)?.name).toBe("other");
  });

  it("is else the one called as it is, and none where nothing is called so", () => {
    expect(setOf(look, 0, [set("horn"), set("BRASS")])?.name).toBe("BRASS");
    expect(setOf(look, 0, [set("horn")])).toBeUndefined();
    expect(setOf(look, 2, [set("")])).toBeUndefined();
  });
});
