import { BufferGeometry, Float32BufferAttribute } from "three";
import { describe, expect, it } from "vitest";
import type { MeshLook } from "../api/meshes";
import { fitted, turned } from "./mesh";
import type { OwnMesh } from "./names";

function meshWith(uv: number[]): OwnMesh {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new Float32BufferAttribute([0, 0, 0, 2, 0, 0, 0, 4, 0], 3));
  geometry.setAttribute("normal", new Float32BufferAttribute([0, 0, 1, 0, 0, 1, 0, 0, 1], 3));
  geometry.setAttribute("uv", new Float32BufferAttribute(uv, 2));
  const look = {} as MeshLook;
  const piece = { material: 0, geometry, tileWidth: 1, triangles: 1, hasMap: true };
  return { ...piece, look, beside: [], isWhole: true };
}

const rows = ({ geometry }: OwnMesh, name: string) => [...geometry.getAttribute(name).array];

describe("a mesh of one's own", () => {
  const own = meshWith([0.5, 0.5, 1.5, 0.5, 0.5, 1.5]);

  it("turned inside out shows its back, each corner with what it wore, and back again", () => {
    const back = turned(own);
    expect(rows(back, "position")).toEqual([0, 0, 0, 0, 4, 0, 2, 0, 0]);
    expect(rows(back, "uv")).toEqual([0.5, 0.5, 0.5, 1.5, 1.5, 0.5]);
    expect(rows(back, "normal").map((x) => x + 0)).toEqual([0, 0, -1, 0, 0, -1, 0, 0, -1]);
    for (const name of ["position", "uv", "normal"])
      expect(rows(turned(back), name).map((x) => x + 0)).toEqual(rows(own, name));
    expect(rows(own, "position")).toEqual([0, 0, 0, 2, 0, 0, 0, 4, 0]); // the first is untouched
  });

  it("brought to one tile has its map from end to end, and a tile's width by its area", () => {
    const one = fitted(own);
    expect(rows(one, "uv")).toEqual([0, 0, 1, 0, 0, 1]);
    expect(one.tileWidth).toBeCloseTo(Math.sqrt(8)); // twice an area of 4, over a map of 1
    expect(fitted(meshWith([0.2, 0.2, 0.2, 0.2, 0.2, 0.2])).tileWidth).toBe(1); // a map of no area
  });
});
