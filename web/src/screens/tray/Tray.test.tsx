import { describe, expect, it, vi } from "vitest";
import { drawn, tagOf } from "../../drawn";

vi.stubGlobal("localStorage", { getItem: () => null }); // the look of the bench is kept there
const { Tray } = await import("./Tray");

const setOf = (id: string, name: string, origins: Record<string, string> = {}) => ({
  id,
  name,
  head: 7,
  can_undo: false,
  tiles: [],
  recipe: { facts: { tile_size: null, width: 64, height: 64 }, sources: {} },
  masters: Object.entries(origins).map(([key, origin]) => ({ key, title: key, origin })),
});
const found = (grade: string, text: string) => ({
  finding: { id: text, grade, text, numbers: {}, master: null, where: null },
  fix: null,
  leave: null,
  tile: null,
});

type Told = { rows?: Record<string, object[]>; removed?: object[] };

const tray = (sets: ReturnType<typeof setOf>[] | null, { rows = {}, removed = [] }: Told = {}) =>
  drawn(<Tray project="p" />, [
    ...(sets ? ([[["sets", "p"], sets]] as [unknown[], object][]) : []),
    [["changed", "p"], []],
    [["deliveries", "p"], []],
    [["targets"], []],
    [["removed", "p", sets?.length ?? 0], removed],
    [["assays"], Object.fromEntries(Object.entries(rows).map(([id, of]) => [`${id} 7`, of]))],
  ]);

describe("the tray", () => {
  it("says that it is being laid out until it is", () => {
    expect(tray(null).text).toBe("Laying out the sets…");
  });

  it("shows each set as a card that leads to its bench", () => {
    const { html } = tray([setOf("1", "Felt"), setOf("2", "Møbelstoff £")]);
    expect(html).toContain('href="/p/p/bench/1"');
    expect(tagOf(html, "Select Møbelstoff £")).not.toBe("");
    expect(tagOf(html, "Take Felt off the tray")).not.toBe("");
  });

  it("says of every master where it comes from, for those who hear it too", () => {
    const { html } = tray([setOf("1", "Felt", { Normal: "given", Height: "derived" })]);
    expect(html).toContain('aria-label="Normal: given\nHeight: derived"');
  });

  it("counts what is to be done on each card, and leaves notes to the assay", () => {
    const rows = {
      1: [found("stop", "a"), found("stop", "b"), found("note", "c")],
      2: [found("look", "d")],
    };
    const { text } = tray([setOf("1", "Felt"), setOf("2", "Brass")], { rows });
    expect(text).toContain("Felt 2 stops");
    expect(text).toContain("Brass 1 check");
    expect(text).not.toContain("note");
  });

  it("has nothing selected at first, and no order for many", () => {
    const { html, text } = tray([setOf("1", "Felt")]);
    expect(html).not.toContain("outline-copper");
    expect(text).not.toContain("selected");
  });

  it("draws the first few of hundreds at once, and counts all of them", () => {
    const many = Array.from({ length: 60 }, (_, k) => setOf(`${k}`, `Cloth ${k}`));
    const { html, text } = tray(many);
    expect(html.match(/data-set=/g)).toHaveLength(24);
    expect(text).toContain("60 sets");
  });
});
