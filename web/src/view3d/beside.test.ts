import {
  BufferGeometry,
  Float32BufferAttribute,
  type Mesh,
  type MeshPhysicalMaterial,
} from "three";
import { describe, expect, it, vi } from "vitest";
import { Beside } from "./beside";
import { CLAY } from "./material";
import type { Piece } from "./names";

const wear = {
  hasMaps: true,
  isClay: false,
  isMisread: false,
  without: null,
  holes: "cut" as const,
  threshold: 0.5,
};
const edges = { x: "mirror", y: "mirror" };
const layers = ["color", "shape", "shine", "glow"] as const;
const packed = () => ({
  width: 1,
  height: 1,
  layers: [...layers],
  bytes: new Uint16Array(16).buffer,
  recipe: { facts: { edges } },
});

function piece(material: number, x: number): Piece {
  const geometry = new BufferGeometry();
  const corners = [x, 0, 0, x + 1, 0, 0, x, 2, 0];
  geometry.setAttribute("position", new Float32BufferAttribute(corners, 3));
  return { material, geometry, tileWidth: 1, triangles: 1, hasMap: true };
}
const materials = ({ group }: Beside) =>
  group.children.map((mesh) => (mesh as Mesh).material as MeshPhysicalMaterial);

describe("what of a mesh wears other sets", () => {
  it("is drawn in its maps, and gray where there are none", () => {
    const beside = new Beside();
    beside.arrange(
      [
        { piece: piece(1, 0), packed: packed() },
        { piece: piece(2, 5), packed: null },
      ],
      wear,
    );
    const [dressed, bare] = materials(beside);
    expect(dressed.map).not.toBeNull();
    expect([bare.map, bare.color.r]).toEqual([null, CLAY.color.r]);
    const { min, max } = beside.box();
    expect([min.x, max.x, max.y]).toEqual([0, 6, 2]);
  });

  it("keeps its textures while its set stays, and lets go of them with it", () => {
    const beside = new Beside();
    const one = { piece: piece(1, 0), packed: packed() };
    beside.arrange([one], wear);
    const { map } = materials(beside)[0];
    const gone = vi.fn();
    map?.addEventListener("dispose", gone);
    beside.arrange([{ ...one }], { ...wear, holes: "solid" });
    expect(materials(beside)[0].map).toBe(map);
    expect(gone).not.toHaveBeenCalled();
    beside.arrange([{ ...one, packed: packed() }], wear);
    expect(materials(beside)[0].map).not.toBe(map);
    expect(gone).toHaveBeenCalledOnce();
    beside.arrange([], wear);
    expect(beside.box().isEmpty()).toBe(true);
  });
});
