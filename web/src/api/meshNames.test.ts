import { expect, test } from "vitest";
import { besideOf, isBesideMesh, isMeshName, type MeshLook, withArrived } from "./meshNames";

const file = (name: string) => new File([], name);
const missing = (name: string) =>
  ({ id: "mesh-file-missing", grade: "look", text: name, numbers: { name } }) as never;

test("meshes and what lies beside them are told by their endings", () => {
  expect(["a.OBJ", "b.gltf", "c.png", "d.obj.txt"].map(isMeshName)).toEqual([
    true,
    true,
    false,
    false,
  ]);
  expect(["a.MTL", "b.bin", "c.obj"].map(isBesideMesh)).toEqual([true, true, false]);
});

test("buffers and materials go with the documents that may name them", () => {
  const files = ["ring.gltf", "Ring.BIN", "ring.mtl"].map(file);
  expect(besideOf("ring.gltf", files).map(({ name }) => name)).toEqual(["Ring.BIN"]);
  expect(besideOf("ring.obj", files).map(({ name }) => name)).toEqual(["ring.mtl"]);
  expect(besideOf("ring.stl", files)).toEqual([]);
});

test("what came along is not missing, whatever folder it was named in", () => {
  const findings = [missing("maps/ring.mtl"), missing("maps\\wood.png"), missing("gone.png")];
  const look = withArrived({ findings } as unknown as MeshLook, new Set(["ring.mtl", "wood.png"]));
  expect(look.findings.map(({ text }) => text)).toEqual(["gone.png"]);
});
