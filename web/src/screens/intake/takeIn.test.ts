import { describe, expect, it } from "vitest";
import type { Arranged, FileLook, TextureSet } from "../../api/client";
import type { Line } from "./arrangement";
import { alreadyGiven, entriesOf, filesIn, groupsOf, isReady, rowsOf, sizesOf } from "./takeIn";

const line = (name: string, set_name: string, key: string, said: Partial<Arranged> = {}): Line => ({
  row: {
    look: {
      sha256: name,
      name,
      set_name,
      readable: true,
      kind: key,
      reads: { L: key },
      spans: {},
    } as unknown as FileLook,
    byHand: {},
    isLeftOut: false,
  },
  place: {
    set_name,
    reads: { L: key },
    rival: null,
    misfit: null,
    tile: null,
    head: null,
    by_set: null,
    ...said,
  },
  tiles: [],
  gaps: [],
});
const there = {
  name: "Silk",
  held: { roughness: "roughness", gloss: "roughness", photo: "base_color" },
} as unknown as TextureSet;

describe("groups of intake", () => {
  it("are sets, each ready by itself", () => {
    const rival = { name: "x", keys: ["height"], relation: "rival" as const };
    const groups = groupsOf(
      [line("a", "felt", "height"), line("b", "lace", "height", { rival })],
      [],
      {},
    );
    expect(groups.map((group) => [group.name, isReady(group)])).toEqual([
      ["felt", true],
      ["lace", false],
    ]);
    expect(rowsOf(groups[0])).toHaveLength(1);
  });

  it("wait for a word where a set of that name is there", () => {
    const lines = [line("a", "silk", "roughness"), line("b", "silk", "height")];
    const [waiting] = groupsOf(lines, [there], {});
    expect(waiting.there).toBe(there);
    expect(isReady(waiting)).toBe(false);
    expect(alreadyGiven(waiting)).toEqual(["roughness"]);
    const other = groupsOf([line("c", "silk", "gloss"), line("d", "silk", "photo")], [there], {});
    expect(alreadyGiven(other[0])).toEqual(["roughness", "base_color"]);
    const [told] = groupsOf(lines, [there], { silk: "add" });
    expect(isReady(told)).toBe(true);
    expect(entriesOf(told)).toHaveLength(2);
  });

  it("count every tile of a map as a file", () => {
    const tiles = [1002, 1003].map((tile) => ({ tile, row: line("c", "silk", "height").row }));
    const lines = [{ ...line("a", "silk", "height"), tiles }, line("b", "silk", "roughness")];
    expect(filesIn(groupsOf(lines, [], {}))).toBe(4);
  });

  it("say how large they go on, and those that meshes alone make", () => {
    const sized = (name: string, width: number) => {
      const one = line(`${name}.png`, name, "height");
      return { ...one, row: { ...one.row, look: { ...one.row.look, width, height: 8 } } };
    };
    const groups = groupsOf([sized("a", 8), sized("b", 8)], [], {});
    expect(sizesOf(groups, 0)).toBe("8 × 8 px");
    expect(sizesOf(groups, 1)).toBe("8 × 8 px, without files 2048 px");
    expect(sizesOf(groupsOf([sized("a", 8), sized("b", 9)], [], {}), 0)).toMatch(/own size$/);
    expect(sizesOf([], 2)).toBe("each 2048 px");
  });

  it("leave out what nothing is read of", () => {
    const left = {
      ...line("a", "felt", "height"),
      row: { ...line("a", "felt", "height").row, isLeftOut: true },
    };
    expect(isReady(groupsOf([left], [], {})[0])).toBe(false);
  });
});
