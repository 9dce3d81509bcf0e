import { describe, expect, it } from "vitest";
import { drawn } from "../drawn";
import { useOnTable } from "../line/onTable";
import { during } from "../samples";
import { Assay } from "./Assay";

const set = (id: string, name: string) => ({
  id,
  name,
  head: 1,
  recipe: { facts: { tile_size: null } },
});
const found = (setId: string, grade: string, text: string) => ({
  set: setId,
  finding: { id: text, grade, text, numbers: {}, master: null, where: null },
  fix: null,
  leave: null,
  tile: null,
});
const SETS = [set("1", "Felt"), set("2", "Brass")];

function strip(rows: Record<string, object[] | null>, shown?: string | null) {
  const known = Object.fromEntries(Object.entries(rows).map(([id, found]) => [`${id} 1`, found]));
  return drawn(
    <Assay project="p" shown={shown} isOpen={false} onOpen={() => {}} onHelp={() => {}} />,
    [
      [["sets", "p"], SETS],
      [["changed", "p"], []],
      [["assays"], known],
    ],
  );
}

describe("the strip at the foot", () => {
  it("counts what was found by grade, of all sets", () => {
    const rows = {
      1: [found("1", "stop", "It cannot be read."), found("1", "note", "It is flat.")],
      2: [found("2", "look", "It leans much.")],
    };
    expect(strip(rows).text).toContain("1 stop 1 check 1 note");
  });

  it("counts and speaks first of the files on the table", () => {
    const rows = { 1: [found("1", "stop", "One thing.")], 2: [] };
    const onTable = [found("", "look", "It is cut off.").finding];
    const { text } = during(useOnTable, { found: onTable } as never, () => strip(rows, null));
    expect(text).toContain("1 stop 1 check");
    expect(text).toContain("It is cut off.");
  });

  it("speaks first of the set in hand", () => {
    const rows = { 1: [found("1", "stop", "One thing.")], 2: [found("2", "look", "Another.")] };
    expect(strip(rows, "2").text).toContain("Another.");
    expect(strip(rows, null).text).toContain("One thing.");
  });

  it("says that it is still looking until every set was looked at", () => {
    expect(strip({ 1: [] }).text).toContain("looking…");
    expect(strip({ 1: [], 2: [] }).text).not.toContain("looking…");
  });

  it("does not call a set sound that could not be looked at", () => {
    expect(strip({ 1: [], 2: null }, "2").text).toContain("Brass could not be looked at");
    expect(strip({ 1: [], 2: null }, "2").text).not.toContain("nothing to check");
    expect(strip({ 1: [], 2: null }, "1").text).toContain("Felt: nothing to check in its maps");
    expect(strip({ 1: [], 2: null }).text).not.toContain("looking…");
  });
});
