import { describe, expect, it } from "vitest";
import type { Arranged, FileLook } from "../../api/client";
import { entryOf, linesOf, runsOf, setOf, setsOf } from "./arrangement";
import { corrected, keyOf, type Row, withLooks } from "./rows";

const look = (name: string): FileLook =>
  ({
    sha256: name,
    name,
    set_name: name.slice(0, 4),
    readable: true,
    kind: "normal",
    reads: { RGB: "normal" },
    green: "unsure",
    spans: {},
    findings: [],
    layers: [],
  }) as unknown as FileLook;

const place = (said: Partial<Arranged & { headKey: string | null }> = {}) => ({
  set_name: "silk",
  reads: { RGB: "normal" },
  rival: null,
  misfit: null,
  tile: null,
  head: null,
  by_set: null,
  headKey: null,
  ...said,
});
const rowsOf = (...looks: FileLook[]): Row[] => withLooks([], looks);

describe("lines of intake", () => {
  const [one, two, three] = ["silk.1011", "silk.1002", "silk.1001"].map(look);
  const head = keyOf(three);
  const places = new Map([
    [head, place({ tile: 1001 })],
    [keyOf(two), place({ tile: 1002, headKey: head })],
    [keyOf(one), place({ tile: 1011, headKey: head })],
  ]);

  it("bring the tiles of one map together, in the order of their numbers", () => {
    const lines = linesOf(rowsOf(one, two, three), places);
    expect(lines.map(({ row }) => row.look.name)).toEqual(["silk.1001"]);
    expect(lines[0].tiles.map(({ tile }) => tile)).toEqual([1002, 1011]);
    expect(setsOf(lines)).toEqual(["silk"]);
  });

  it("say which tiles of a set a map has no file for", () => {
    const whole = look("silk_rough");
    const lacking = new Map([...places, [keyOf(whole), place({ tile: 1002 })]]);
    const plain = look("silk_plain");
    lacking.set(keyOf(plain), place());
    const lines = linesOf(rowsOf(one, two, three, whole, plain), lacking);
    expect(lines.map(({ row, gaps }) => [row.look.name, gaps])).toEqual([
      ["silk_plain", []],
      ["silk_rough", [1001, 1011]],
      ["silk.1001", []],
    ]);
  });

  it("say which tiles there are in runs", () => {
    expect(runsOf([1001, 1002, 1003, 1011, 1021, 1022])).toBe("1001–1003, 1011, 1021–1022");
  });

  it("send every tile's file, and the green that any of them tells", () => {
    const told = { ...two, green: "down" as const };
    const [line] = linesOf(rowsOf(one, told, three), places);
    expect(entryOf(line)).toMatchObject({
      name: "silk.1001",
      tile: 1001,
      green: "down",
      beside: { 1002: { name: "silk.1002" }, 1011: { name: "silk.1011" } },
    });
  });

  it("send only what no better file gives", () => {
    const row = rowsOf(three);
    const lost = linesOf(row, new Map([[head, place({ reads: {} })]]));
    expect(entryOf(lost[0])).toBeNull();
    expect(entryOf(linesOf(row, new Map())[0])).toBeNull();
  });

  it("go to the set that a person named, before any that the server finds", () => {
    const [row] = rowsOf(three);
    const lines = linesOf([corrected(row, { set_name: "my silk" })], new Map([[head, place()]]));
    expect(setOf(lines[0])).toBe("my silk");
  });
});
