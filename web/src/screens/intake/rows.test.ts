import { describe, expect, it } from "vitest";
import type { FileLook } from "../../api/client";
import {
  documentOf,
  isBeside,
  isUsable,
  keyOf,
  readsOf,
  underItsName,
  wholeOf,
  withLayersOf,
  withLooks,
  withMerged,
  withReadingsBySet,
} from "./rows";

const look = (name: string, said: Partial<FileLook> = {}): FileLook =>
  ({
    sha256: name,
    name,
    set_name: "silk",
    readable: true,
    kind: "height",
    reads: { L: "height" },
    width: 64,
    height: 64,
    is_named: true,
    is_constant: false,
    quality: [0, 0],
    findings: [],
    ...said,
  }) as FileLook;
describe("rows of intake", () => {
  it("that come after their set was named are under that name", () => {
    const given = new Map([
      ["silk", "Étoffe"],
      ["Étoffe", "Seide"],
    ]);
    expect(underItsName(look("late.png"), given).set_name).toBe("Seide");
    expect(underItsName(look("other.png", { set_name: "wool" }), given).set_name).toBe("wool");
    expect(underItsName(look("late.png"), new Map()).set_name).toBe("silk");
  });

  it("keep what a person corrected when a file is read again", () => {
    const [first] = withLooks([], [look("a.png")]);
    const corrected = { ...first, byHand: { kind: "roughness" }, isLeftOut: true };
    const [again] = withLooks([corrected], [look("a.png")]);
    expect(again.look.kind).toBe("roughness");
    expect(again.isLeftOut).toBe(true);
  });

  it("are one for each file and folder, and of a file that is read twice the last", () => {
    const looks = [look("ao.png", { folder: "oak" }), look("ao.png", { folder: "pine" })];
    const [oak, pine, ...more] = withLooks([], [...looks, { ...looks[1], kind: "occlusion" }]);
    expect([oak.look.folder, pine.look.kind, more.length]).toEqual(["oak", "occlusion", 0]);
  });

  it("leave out what cannot be read or is not known", () => {
    const rows = withLooks([], [look("a.png"), look("b.png", { kind: "unknown", reads: {} })]);
    expect(rows.filter(isUsable).map((row) => row.look.name)).toEqual(["a.png"]);
    expect(new Set(rows.map((row) => keyOf(row.look))).size).toBe(2);
  });

  it("are read as the others of their sets say, where nobody has said what they are", () => {
    const reading = {
      set_name: "silk",
      kind: "base_color",
      reads: { RGB: "base_color" },
      because: "b",
      confidence: 0.75,
    };
    const rows = withLooks([], [look("a.png"), look("b.png")]);
    const said = new Map([[keyOf(rows[1].look), reading]]);
    const [a, b] = withReadingsBySet(rows, said);
    expect(a).toBe(rows[0]);
    expect(b.look).toMatchObject({ ...reading, because: ["b"], name: "b.png" });
    const byHand = [{ ...rows[1], byHand: { kind: "photo" } }];
    expect(withReadingsBySet(byHand, said)).toBe(byHand);
  });

  it("say what a file is as a whole", () => {
    expect(wholeOf({ R: "occlusion", G: "roughness" })).toBe("packed");
    expect(wholeOf({ L: "height" })).toBe("height");
    expect(readsOf("opacity", "RGBA")).toEqual({ A: "opacity" });
    expect(readsOf("normal", "RGB")).toEqual({ RGB: "normal" });
    expect(readsOf("packed", "RGB")).toEqual({});
  });
});

it("leaves a mesh that is not read beside the pictures where another mesh is", () => {
  const foreign = { readable: false, is_foreign_mesh: true, is_passed_over: false };
  const [mesh] = withLooks([], [look("crate.fbx", foreign)]);
  expect([isBeside(mesh), isBeside(mesh, true)]).toEqual([false, true]);
  const [text] = withLooks([], [look("license.txt", { readable: false, is_passed_over: true })]);
  expect([isBeside(text), isBeside(text, true)]).toEqual([true, true]);
  const [map] = withLooks([], [look("crate_color.png")]);
  expect(isBeside(map, true)).toBeFalsy();
});

describe("a file of several pictures", () => {
  const document = look("wall.psd", { layers: ["basecolor", "ink"], is_by_layers: true });
  const layers = ["basecolor", "ink"].map((name) =>
    look(`wall_${name}.tif`, { layer_of: documentOf(document) }),
  );

  it("is taken by its layers where they are maps, else as it is seen", () => {
    const rows = withLooks([], [document, ...layers]);
    expect(rows.filter(isUsable).map(({ look }) => look.name)).toEqual([
      "wall_basecolor.tif",
      "wall_ink.tif",
    ]);
    const merged = withMerged(rows, document);
    expect(merged.filter(isUsable).map(({ look }) => look.name)).toEqual(["wall.psd"]);
    expect(withLayersOf(merged, document, layers).filter(isUsable)).toHaveLength(2);
  });
});
