import { BufferGeometry, Float32BufferAttribute } from "three";
import { describe, expect, it } from "vitest";
import { inTiles } from "./inTiles";
import type { OwnMesh } from "./names";

function worn(uv: number[]): OwnMesh {
  const geometry = new BufferGeometry();
  geometry.setAttribute("uv", new Float32BufferAttribute(uv, 2));
  return { geometry, tileWidth: 0.5 } as OwnMesh;
}

describe("a mesh that wears a set in tiles", () => {
  const mesh = worn([1, 0, 2, 1, 2.5, 1.5]);
  const shown = { columns: 2, rows: 2, left: 1, low: 0 };

  it("finds each tile in the picture that shows them all", () => {
    const uv = inTiles(mesh, shown).geometry.getAttribute("uv");
    expect([...uv.array]).toEqual([0, 0, 0.5, 0.5, 0.75, 0.75]);
  });

  it("keeps its own, and how wide one tile lies on it", () => {
    expect(inTiles(mesh, shown).tileWidth).toBe(0.5);
    expect([...mesh.geometry.getAttribute("uv").array]).toEqual([1, 0, 2, 1, 2.5, 1.5]);
  });

  it("is made once for a layout, so that the view does not dress it anew", () => {
    expect(inTiles(mesh, shown)).toBe(inTiles(mesh, { ...shown }));
    expect(inTiles(mesh, shown)).not.toBe(inTiles(mesh, { ...shown, columns: 3 }));
  });
});
