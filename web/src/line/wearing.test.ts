import { expect, test } from "vitest";
import type { MeshLook } from "../api/meshes";
import { withMeshes, withoutPlace } from "./wearing";

const look = (name: string, triangles: number, role: MeshLook["role"] = null): MeshLook => ({
  sha256: name,
  name,
  print: `print of ${name}`,
  stem: name,
  role,
  folder: "",
  triangles,
  size: 1,
  parts: [],
  materials: [
    { name: "linen", triangles },
    { name: "Brass", triangles },
  ],
  pictures: 0,
  beside: [],
  values: [],
  has_uv: true,
  tiles: [],
  are_copies: false,
  px: 2048,
  open_edges: 0,
  is_both: false,
  findings: [],
  fixes: {},
});

test("low, high and cage go by their names, in whatever order they come", () => {
  const looks = [
    look("pin_cage", 12, "cage"),
    look("pin_high", 900, "high"),
    look("pin_low", 12, "low"),
  ];
  const worn = withMeshes(null, looks, "brass");
  expect([worn?.low.name, worn?.high.map(({ name }) => name), worn?.cage?.name]).toEqual([
    "pin_low",
    ["pin_high"],
    "pin_cage",
  ]);
  expect([worn?.material, worn?.called]).toEqual([1, "Brass"]);
});

test("of names that say nothing the simplest is low and the finest is baked from", () => {
  const first = withMeshes(null, [look("b", 900), look("a", 12)], "");
  expect([first?.low.name, first?.high[0]?.name]).toEqual(["a", "b"]);
  const again = withMeshes(first, [look("c", 8)], "");
  expect([again?.low.name, again?.high[0]?.name]).toEqual(["c", "b"]);
});

test("several high meshes that come together are all baked from, and others take their place", () => {
  const low = look("pin_low", 12, "low");
  const both = withMeshes(null, [low, look("a_high", 90, "high"), look("b_high", 80, "high")], "");
  expect(both?.high.map(({ name }) => name)).toEqual(["b_high", "a_high"]);
  const other = withMeshes(both, [look("c_high", 70, "high")], "");
  expect(other?.high.map(({ name }) => name)).toEqual(["c_high"]);
});

test("a high mesh alone has no place, and what is set of the bake stays", () => {
  expect(withMeshes(null, [look("pin_high", 900, "high")], "")).toBeNull();
  expect(withoutPlace(null, [look("pin_high", 900, "high")])).toEqual(["pin_high"]);
  const worn = withMeshes(null, [look("a", 12)], "");
  const told = worn && { ...worn, offset: 2, rays: 256 };
  expect(withMeshes(told, [look("z_low", 14, "low")], "")).toMatchObject({ offset: 2, rays: 256 });
});
