import { describe, expect, it } from "vitest";
import type { Assayed } from "../api/assays";
import type { TextureSet } from "../api/client";
import { inOrder, nothingFound, ofTable, spokenFirst } from "./found";

const set = (id: string) => ({ id, name: id.toUpperCase() }) as TextureSet;
const row = (id: string, grade: string, text: string) =>
  ({ set: set(id), finding: { id: text, grade, text } }) as unknown as Assayed;

const rows = [
  row("satin", "note", "its license is not noted"),
  row("knit", "stop", "has no base color"),
  row("satin", "look", "light falls off"),
  row("lace", "look", "has a border"),
];
const texts = (found: Assayed[]) => found.map(({ finding }) => finding.text);

describe("what the assay speaks of", () => {
  it("is what is in hand before anything graver elsewhere", () => {
    expect(spokenFirst(rows, [set("satin")])).toBe("SATIN: light falls off");
    expect(texts(inOrder(rows, [set("satin")]))).toEqual([
      "light falls off",
      "its license is not noted",
      "has no base color",
      "has a border",
    ]);
  });

  it("is the gravest of all where nothing is in hand", () => {
    expect(spokenFirst(rows, [])).toBe("KNIT: has no base color");
    expect(texts(inOrder(rows, []))[0]).toBe("has no base color");
    expect(spokenFirst([], [])).toBeNull();
  });

  it("is the gravest of the sets in front where several are", () => {
    expect(spokenFirst(rows, [set("satin"), set("lace")])).toBe("SATIN: light falls off");
    expect(spokenFirst(rows, [set("felt"), set("wool")])).toBe(
      "2 sets: nothing to check in their maps",
    );
  });

  it("is that nothing is wrong with what is in hand, and no stop of another set", () => {
    const notes = rows.slice(0, 2);
    expect(spokenFirst(notes, [set("satin")])).toBe("SATIN: nothing to check in its maps");
    expect(spokenFirst(notes, [set("satin")], true)).toBeNull(); // not before all was looked at
  });

  it("is the gravest of the files on the table before they are taken in", () => {
    const files = rows.map(({ finding }) => finding);
    expect(ofTable(files).first).toBe("has no base color");
    expect(ofTable(files).listed.map(({ grade }) => grade)).toEqual([
      "stop",
      "look",
      "look",
      "note",
    ]);
    expect(ofTable(files.slice(0, 1)).first).toBeNull(); // notes wait
  });

  it("is not that every set can go where there is none", () => {
    expect(nothingFound(0, false)).not.toContain("every set");
    expect(nothingFound(2, false)).toContain("every set can go");
    expect(nothingFound(2, true)).toContain("Looking");
  });
});
