import { describe, expect, it } from "vitest";
import type { TextureSet } from "../../api/client";
import { drawn, tagOf } from "../../drawn";
import { inHand } from "../../samples";
import { Rise } from "./Rise";

type Told = { facts?: object; origins?: Record<string, string>; slopes?: number[] };

function rise({ facts, origins = { height: "derived" }, slopes }: Told = {}) {
  const recipe = { facts: { rise: 0.02, rise_from: "told", tile_size: null, ...facts } };
  const masters = Object.entries(origins).map(([key, origin]) => ({ key, origin }));
  const set = { id: "1", head: 4, masters, recipe } as unknown as TextureSet;
  return drawn(
    <Rise set={set} project="p" edit={inHand(recipe).edit} />,
    slopes ? [[["slopes", "1", 4], slopes]] : [],
  );
}

/** Slopes that lean by so many degrees where the surface rises by 2 %. */
const leaning = (...degrees: number[]) =>
  degrees.map((angle) => Math.tan((angle * Math.PI) / 180) / 0.02);

describe("how far a surface rises", () => {
  it("is a share of the width, with the tilt beside it once slopes are known", () => {
    expect(tagOf(rise().html, "Rise")).toContain('aria-valuetext="2.00 % of width"');
    expect(tagOf(rise().html, "Mean tilt")).toBe("");
    const { html } = rise({ slopes: leaning(4, 8, 12) });
    expect(tagOf(html, "Mean tilt")).toContain('aria-valuetext="8.00 °"');
  });

  it("is doubted where it was told and is steeper than nearly all surfaces", () => {
    const doubt = "leans more than 72°. Few surfaces do.";
    const slopes = leaning(10, 72);
    expect(rise({ slopes }).text).toContain(doubt);
    expect(rise({ slopes: leaning(10, 59) }).text).not.toContain("Few surfaces do.");
    expect(rise({ slopes, facts: { rise_from: "fitted" } }).text).not.toContain(doubt);
    expect(rise({ slopes, origins: { height: "given" } }).text).not.toContain(doubt);
  });

  it.each([
    [{ rise_from: "told" }, "told, not measured"],
    [{ rise_from: "assumed" }, "assumed: nobody has told or measured it"],
    [{ rise_from: "baked" }, "as it was baked, of the mesh"],
    [{ rise_from: "measured", rise_fit: 0.934 }, "measured on the normals, correlation 0.93"],
    [{ rise_from: "fitted" }, "fitted to the height as it was derived"],
  ])("says how it is known: %o", (facts, says) => {
    expect(rise({ facts }).text).toContain(says);
  });

  it("is told to be of no use yet where the height is one value", () => {
    const { html, text } = rise({ slopes: [0, 0, 0], facts: { rise_from: "fitted" } });
    expect(text).toContain("The height is one value: nothing rises yet.");
    expect(text).not.toContain("fitted");
    expect(tagOf(html, "Mean tilt")).toBe("");
  });

  it("can be measured where height and normal both were given, and were not yet", () => {
    const origins = { height: "given", normal: "given" };
    const offer = (from: string, of: Record<string, string> = origins) =>
      rise({ facts: { rise_from: from }, origins: of }).text.includes("Measure it");
    expect(offer("assumed")).toBe(true);
    expect(offer("told")).toBe(true);
    expect(offer("measured")).toBe(false);
    expect(offer("baked")).toBe(false);
    expect(offer("assumed", { height: "given", normal: "derived" })).toBe(false);
  });

  it("is told in millimeters where the tile's width is known", () => {
    expect(rise({ facts: { tile_size: 0.5 } }).text).toContain("10.0 mm on a tile 0.5 m wide");
    expect(rise().text).not.toContain("mm on a tile");
  });
});
