import { describe, expect, it } from "vitest";
import type { FileLook } from "../../api/client";
import {
  isUsable,
  keyOf,
  readsOf,
  rivalsOf,
  setsOf,
  wholeOf,
  withLayersOf,
  withLooks,
  withMerged,
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
const quantities = [
  { key: "roughness", title: "Roughness", plain: "", master: "roughness", channels: 1 },
  { key: "gloss", title: "Gloss", plain: "", master: "roughness", channels: 1 },
];

describe("rows of intake", () => {
  it("keep what a person corrected when a file is read again", () => {
    const [first] = withLooks([], [look("a.png")]);
    const corrected = { ...first, byHand: { kind: "roughness" }, isLeftOut: true };
    const [again] = withLooks([corrected], [look("a.png")]);
    expect(again.look.kind).toBe("roughness");
    expect(again.isLeftOut).toBe(true);
  });

  it("keep the spelling that a set came with first", () => {
    const rows = withLooks(withLooks([], [look("a.png")]), [look("b.png", { set_name: "Silk" })]);
    expect(setsOf(rows)).toEqual(["silk"]);
  });

  it("leave out what cannot be read or is not known", () => {
    const rows = withLooks([], [look("a.png"), look("b.png", { kind: "unknown", reads: {} })]);
    expect(rows.filter(isUsable).map((row) => row.look.name)).toEqual(["a.png"]);
    expect(new Set(rows.map((row) => keyOf(row.look))).size).toBe(2);
  });

  it("see rivals by the map that comes of them, whatever they are called", () => {
    const rows = withLooks(
      [],
      [
        look("a.png", { kind: "roughness", reads: { L: "roughness" }, quality: [0] }),
        look("b.png", { kind: "gloss", reads: { L: "gloss" }, quality: [1] }),
      ],
    );
    const rivals = [...rivalsOf(rows, quantities).entries()];
    expect(rivals).toHaveLength(1);
    expect(rivals[0][0].look.name).toBe("b.png");
    expect(rivals[0][1]).toMatchObject({ name: "a.png", is: "worse" });
  });

  it("say what a file is as a whole", () => {
    expect(wholeOf({ R: "occlusion", G: "roughness" })).toBe("packed");
    expect(wholeOf({ L: "height" })).toBe("height");
    expect(readsOf("opacity", "RGBA")).toEqual({ A: "opacity" });
    expect(readsOf("normal", "RGB")).toEqual({ RGB: "normal" });
    expect(readsOf("packed", "RGB")).toEqual({});
  });
});

describe("a file of several pictures", () => {
  const document = look("wall.psd", { layers: ["basecolor", "ink"], is_by_layers: true });
  const layers = ["basecolor", "ink"].map((name) =>
    look(`wall_${name}.tif`, { layer_of: keyOf(document) }),
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
