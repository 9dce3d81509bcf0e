import { expect, test } from "vitest";
import { cameIn } from "./folders";
import {
  besideOf,
  isBesideMesh,
  isMeshName,
  type MeshLook,
  withArrived,
  withFolder,
} from "./meshNames";

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

test("buffers and materials go with the meshes that name them, and with no others", async () => {
  const files = [
    "Ring 1.BIN",
    "Öse.bin",
    "9%.bin",
    "hat.bin",
    "ring.mtl",
    "hat.mtl",
    "100%.mtl",
  ].map(file);
  const found = async (name: string, text: string) =>
    (await besideOf(new File([text], name), files)).map((one) => one.name);
  const buffers =
    '{"buffers":[{"uri": "maps/ring%201.bin"},{"uri":"\\u00d6se.bin"},{"uri":"9%.bin"},{"uri":"data:a/b;base64,hat.bin"}]}';
  expect(await found("ring.gltf", buffers)).toEqual(["Ring 1.BIN", "Öse.bin", "9%.bin"]);
  expect(await found("a.OBJ", "# a\nmtllib maps\\Ring.mtl\r\nmtllib 100%.mtl\nv 0 0 0")).toEqual([
    "ring.mtl",
    "100%.mtl",
  ]);
  expect(await found("ring.stl", "mtllib ring.mtl")).toEqual([]);
});

test("what came along is not missing, whatever folder it was named in", () => {
  const findings = [missing("maps/ring.mtl"), missing("maps\\wood.png"), missing("gone.png")];
  const look = withArrived({ findings } as unknown as MeshLook, new Set(["ring.mtl", "wood.png"]));
  expect(look.findings.map(({ text }) => text)).toEqual(["gone.png"]);
});

test("of several files of one name a mesh takes that of its own folder", async () => {
  const lying = (folder: string, name: string, text = "") => {
    const one = new File([text], name);
    cameIn(one, folder);
    return one;
  };
  const [oak, slate] = [lying("chair", "model.mtl"), lying("table", "model.mtl")];
  const mesh = (folder: string) => lying(folder, "model.obj", "mtllib model.mtl");
  expect(await besideOf(mesh("chair"), [slate, oak])).toEqual([oak]);
  expect((await besideOf(mesh("table"), [slate, oak]))[0]).toBe(slate);
  expect(await besideOf(mesh("elsewhere"), [slate, oak])).toEqual([slate, oak]);
});

test("what a mesh names lies from its own folder on", () => {
  const look = { beside: [{ folder: "../maps" }, { folder: "" }] } as unknown as MeshLook;
  const placed = withFolder(look, "chair");
  expect(placed.folder).toBe("chair");
  expect(placed.beside.map(({ folder }) => folder)).toEqual(["chair/../maps", "chair"]);
});
