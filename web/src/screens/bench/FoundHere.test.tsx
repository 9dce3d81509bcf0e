import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../api/client";
import { drawn } from "../../drawn";
import { during } from "../../samples";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { FoundHere } = await import("./FoundHere");
const { useView } = await import("./view");

const SET = {
  id: "1",
  name: "Felt",
  head: 5,
  masters: [],
  recipe: { facts: { tile_size: null } },
} as unknown as TextureSet;

const found = (id: string, grade: string, told: object = {}, more: object = {}) => ({
  finding: { id, grade, text: `About ${id}.`, numbers: {}, master: "normal", where: null, ...more },
  fix: null,
  leave: null,
  tile: null,
  set: "1",
  ...told,
});

const here = (rows: object[], chosen = "normal") =>
  drawn(<FoundHere project="p" set={SET} chosen={chosen} onChoose={() => {}} />, [
    [["sets", "p"], [SET]],
    [["changed", "p"], []],
    [["assays"], { "1 5": rows }],
  ]);

describe("what was found on the set in hand", () => {
  it("is told with what one press does about it; notes wait to be asked for", () => {
    const { text } = here([
      found("green-turned", "stop", { fix: "Flip green" }),
      found("flat", "note"),
    ]);
    expect(text).toContain("About green-turned.");
    expect(text).toContain("Flip green");
    expect(text).not.toContain("About flat.");
  });

  it("is shown in its place where it has one, and hidden again", () => {
    const row = found("too-bright", "look", {}, { where: "mask" });
    expect(here([row]).text).toContain("Show where");
    expect(here([found("too-bright", "look")]).text).not.toContain("Show where");
    const place = { set: "1", finding: "too-bright", master: "normal", tile: null };
    expect(during(useView, { marked: place }, () => here([row])).text).toContain("Hide where");
  });

  it("is a question where only the eye can tell: two pictures, two answers, one at a time", () => {
    const ask = { fix: "They are grooves", leave: "They stand up" };
    const { html, text } = here([found("lines-light", "look", ask), found("other", "look", ask)]);
    expect(html.match(/<img/g)).toHaveLength(2);
    expect(html).toContain("fix=lines-light&amp;of=normal");
    expect(text).toContain("They stand up They are grooves");
    expect(text).toContain("One more question after this one.");
    expect(text).not.toContain("About other.");
    const three = [0, 1, 2].map((k) => found(`q${k}`, "look", ask));
    expect(here(three).text).toContain("2 more questions after this one.");
  });

  it("asks first about the map in hand", () => {
    const ask = { fix: "Even it out", leave: "As it is" };
    const rows = [
      found("uneven", "look", ask, { master: "base_color" }),
      found("lines", "look", ask),
    ];
    expect(here(rows, "normal").text).toContain("About lines.");
    expect(here(rows, "base_color").text).toContain("About uneven.");
    expect(here(rows, "roughness").text).toContain("About uneven.");
  });

  it("asks about a note only while its map is in hand", () => {
    const row = found("guessed", "note", { fix: "Shinier here", leave: "Duller here" });
    expect(here([row]).text).toContain("About guessed.");
    expect(here([row], "height").text).not.toContain("About guessed.");
  });
});
