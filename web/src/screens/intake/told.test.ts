import { describe, expect, it } from "vitest";
import type { FileLook } from "../../api/client";
import type { MeshLook } from "../../api/meshes";
import { alongWith, toldFiles } from "./told";

const file = (name: string, set_name: string, folder = "") =>
  ({ sha256: name + folder, name, set_name, folder, readable: true }) as unknown as FileLook;
const mesh = (stem: string, ...beside: Partial<MeshLook["beside"][number]>[]) =>
  ({
    stem,
    beside: beside.map((one) => ({ folder: "", material: stem, is_cut: false, ...one })),
  }) as unknown as MeshLook;
const use = (name: string, slot: string, told = {}) => ({ name, slots: [slot], ...told });

describe("files that the materials of meshes tell of", () => {
  it("are found by their names, with every slot that reads them", () => {
    const crate = mesh("Crate", use("ARM.png", "map_Pr:g"), use("arm.png", "map_Pm:b"));
    const [one, ...more] = toldFiles([file("arm.png", "arm"), file("other.png", "x")], [crate]);
    expect(more).toEqual([]);
    expect(one.told).toMatchObject({ slots: ["map_Pr:g", "map_Pm:b"], material: "Crate" });
  });

  it("of one name are told apart by their folders", () => {
    const wood = mesh("Wood", use("c.png", "baseColorTexture", { folder: "wood" }));
    const found = toldFiles([file("c.png", "c", "iron"), file("c.png", "c", "Wood")], [wood]);
    expect(found.map(({ look }) => look.folder)).toEqual(["Wood"]);
  });

  it("keep their own set where several materials share them", () => {
    const both = [mesh("A", use("c.png", "map_Kd")), mesh("B", use("c.png", "map_Kd"))];
    const [one] = toldFiles([file("c.png", "atlas")], both);
    expect(one.told).toMatchObject({ material: "", stem: "atlas", slots: ["map_Kd"] });
  });

  it("take the files of their set along that no material reads, unless they part", () => {
    const looks = [file("a_c.png", "a"), file("a_h.png", "a"), file("b_c.png", "b")];
    const told = toldFiles(looks, [mesh("M", use("a_c.png", "x"), use("b_c.png", "x"))]);
    const answers = told.map(({ look }) => ({ ...look, set_name: "M" }));
    expect(alongWith(looks, told, answers)).toEqual([{ ...looks[1], set_name: "M" }]);
    const parted = [...told, { ...told[0], look: file("a_n.png", "a") }];
    const others = [...answers, { ...answers[0], set_name: "N" }];
    expect(alongWith(looks, parted, others)).toEqual([]);
  });
});
