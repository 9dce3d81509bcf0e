import { describe, expect, it } from "vitest";
import type { Assayed } from "../../api/assays";
import type { TextureSet } from "../../api/client";
import { filtersOf, selected, sieved, sorted } from "./sieve";

const set = (name: string, said: object = {}): TextureSet =>
  ({
    id: name,
    name,
    head: 1,
    tiles: [],
    masters: [{ key: "normal", origin: "derived" }],
    recipe: { sources: { s1: { name: `${name}_photo.png` } }, facts: { license: "", origin: "" } },
    ...said,
  }) as unknown as TextureSet;
const nothing = {
  found: [],
  delivered: new Map<string, number>(),
  targets: new Map<string, Set<string>>(),
};
const names = (sets: TextureSet[]) => sets.map(({ name }) => name);

describe("the tray narrowed down", () => {
  const sets = [set("red felt"), set("blue felt", { tiles: [1001, 1002] }), set("lace")];

  it("lies in the order that is asked for", () => {
    const sized = (name: string, width: number) =>
      set(name, { recipe: { sources: {}, facts: { width, height: 1 } } });
    const three = [sized("b10", 2), sized("b9", 8), sized("a", 2)];
    expect(names(sorted(three, "taken", nothing))).toEqual(["b10", "b9", "a"]);
    expect(names(sorted(three, "name", nothing))).toEqual(["a", "b9", "b10"]);
    expect(names(sorted(three, "size", nothing))).toEqual(["b9", "b10", "a"]);
    const found = [{ set: three[2], finding: { grade: "stop" } }] as Assayed[];
    expect(names(sorted(three, "found", { ...nothing, found }))).toEqual(["a", "b10", "b9"]);
  });

  it("finds every word, in names and files", () => {
    expect(names(sieved(sets, "felt", [], nothing))).toEqual(["red felt", "blue felt"]);
    expect(names(sieved(sets, "photo LACE", [], nothing))).toEqual(["lace"]);
  });

  it("knows targets and sources, and offers those there are", () => {
    const from = (name: string, origin: string) => set(name, { recipe: { facts: { origin } } });
    const two = [from("a", "Atelier Nord"), from("b", "")];
    const targets = new Map([["b", new Set(["gltf"])]]);
    const known = { ...nothing, targets };
    expect(names(sieved(two, "", ["from:Atelier Nord"], known))).toEqual(["a"]);
    expect(names(sieved(two, "", ["to:gltf"], known))).toEqual(["b"]);
    const offered = filtersOf(two, known, () => "glTF 2.0");
    expect(offered.slice(-2).map(([, title]) => title)).toEqual([
      "To glTF 2.0",
      "From Atelier Nord",
    ]);
  });

  it("lets through what passes every filter", () => {
    expect(names(sieved(sets, "", ["tiles"], nothing))).toEqual(["blue felt"]);
    const delivered = new Map([["lace", 1]]);
    expect(names(sieved(sets, "", ["undelivered"], { ...nothing, delivered }))).toHaveLength(2);
  });
});

describe("the selection", () => {
  const shown = ["a", "b", "c", "d"];
  const one = { isMore: false, isRange: false };

  it("takes one more or less", () => {
    expect(selected([], shown, "b", null, one)).toEqual(["b"]);
    expect(selected(["b"], shown, "c", "b", one)).toEqual(["b", "c"]);
    expect(selected(["b", "c"], shown, "b", "c", one)).toEqual(["c"]);
  });

  it("takes all from the last one", () => {
    expect(selected(["b"], shown, "d", "b", { isMore: false, isRange: true })).toEqual([
      "b",
      "c",
      "d",
    ]);
    expect(selected(["a"], shown, "b", "d", { isMore: true, isRange: true })).toEqual([
      "a",
      "b",
      "c",
      "d",
    ]);
  });
});
