import { describe, expect, it } from "vitest";
import type { Quantity, Target } from "../../api/client";
import {
  feeding,
  partFor,
  type TargetFile,
  withChannel,
  withFile,
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
    expect(wide.channels.A).toEqual({ constant: 0 });
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
