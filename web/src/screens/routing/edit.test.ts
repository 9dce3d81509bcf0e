import { describe, expect, it } from "vitest";
import type { Quantity, Target } from "../../api/client";
import { FORMATS } from "../../samples";
import {
  feeding,
  partFor,
  rowOf,
  type TargetFile,
  withChannel,
  withEveryFormat,
  withFile,
  withFormat,
  withHoleTurned,
  withLetters,
  withNewFile,
  withPart,
} from "./edit";

const row = (key: string, channels: number) =>
  ({ key, title: key, plain: "", master: key, channels }) as Quantity;
const [height, normal, color] = [row("height", 1), row("normal", 3), row("base_color", 3)];
const file = {
  role: "orm",
  title: "ORM",
  channels: { R: feeding(row("occlusion", 1), "R"), G: feeding(row("roughness", 1), "G") },
} as unknown as TargetFile;
const target = { files: [file], documents: [] } as unknown as Target;

describe("what is said of every file", () => {
  it("keeps parts of a name apart that would run into one word", () => {
    const set = { part: "set" } as const;
    expect(withPart([set], { part: "map" })).toEqual([set, "_", { part: "map" }]);
    expect(withPart([set], "v2")).toEqual([set, "_", "v2"]);
    expect(withPart([set, "-"], "v2")).toEqual([set, "-", "v2"]);
    expect(withPart([set], ".v2")).toEqual([set, ".v2"]);
    expect(withPart([], set)).toEqual([set]);
  });
});

describe("another format", () => {
  const [png, , exr] = FORMATS;
  const stored = (told: object) =>
    ({
      ...file,
      depth: 8,
      sample: "uint",
      color: "srgb",
      primaries: "rec709",
      ...told,
    }) as TargetFile;

  it("brings the nearest depth that it holds, and colors as readers expect them there", () => {
    expect(withFormat(stored({ dither: true }), exr)).toMatchObject({
      format: "exr",
      depth: 16,
      sample: "float",
      color: "linear",
      dither: false,
    });
    expect(withFormat(stored({ depth: 16, color: "data" }), exr)).toMatchObject({
      depth: 32,
      color: "data",
    });
    const aces = stored({ depth: 32, sample: "float", color: "linear", primaries: "acescg" });
    expect(withFormat(aces, png)).toMatchObject({
      depth: 16,
      sample: "uint",
      color: "srgb",
      primaries: "rec709",
    });
  });

  it("keeps a depth that it holds, and layers where it has some", () => {
    expect(withFormat(stored({ depth: 16 }), png)).toMatchObject({ depth: 16, color: "srgb" });
    const layer = stored({ format: "tiff", layer_of: "all" });
    expect(withFormat(layer, exr).layer_of).toBe("all");
    expect(withFormat(layer, png).layer_of).toBe("");
  });

  it("is given to every file at once, each by its own depth", () => {
    const both = { files: [stored({}), stored({ depth: 16 })] } as unknown as Target;
    expect(withEveryFormat(both, exr).files.map((one) => one.depth)).toEqual([16, 32]);
    expect(() => rowOf([png], "exr")).toThrow();
  });
});

describe("a target's table", () => {
  it.each([
    [height, "G", "v"],
    [normal, "R", "x"],
    [normal, "B", "z"],
    [normal, "A", "z"],
    [color, "G", "g"],
    [color, "L", "luminance"],
  ] as const)("gives a part of %o to %s", (quantity, letter, part) => {
    expect(partFor(quantity, letter)).toBe(part);
  });

  it("changes one channel and nothing else", () => {
    const changed = withChannel(target, "orm", "G", feeding(height, "G"));
    expect(changed.files[0].channels.G?.quantity).toBe("height");
    expect(changed.files[0].channels.R).toBe(file.channels.R);
    expect(target.files[0].channels.G?.quantity).toBe("roughness");
  });

  it("inverts a channel, and back", () => {
    const turned = withHoleTurned(target, { role: "orm", letter: "R" });
    expect(turned.files[0].channels.R?.invert).toBe(true);
    const back = withHoleTurned(turned, { role: "orm", letter: "R" });
    expect(back.files[0].channels.R?.invert).toBe(false);
    expect(() => withHoleTurned(target, { role: "none", letter: "R" })).toThrow("none is missing");
  });

  it("keeps what stays when a file has other channels; new ones are black", () => {
    const gray = withLetters(file, "L");
    expect(gray.channels.L?.quantity).toBe("occlusion");
    const wide = withLetters(file, "RGBA");
    expect(wide.channels.G?.quantity).toBe("roughness");
    expect(wide.channels.A).toMatchObject({ quantity: null, constant: 0 });
  });

  it("gives every new file a role of its own", () => {
    const whole = withFile(target, "orm", (f) => ({
      ...f,
      name: ["a"],
      word: "orm",
      color: "data",
    }));
    const twice = withNewFile(withNewFile(whole, height), height);
    expect(new Set(twice.files.map((f) => f.role)).size).toBe(3);
  });
});
