import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../api/client";
import { drawn, tagOf } from "../../drawn";
import { inHand } from "../../samples";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { WholeSet } = await import("./WholeSet");

type Told = {
  facts?: object;
  frame?: object | null;
  steps?: object[];
  touches?: object;
  seams?: object[];
  isOpen?: boolean;
};

function whole({ facts, frame = null, steps = [], touches = {}, seams, isOpen = true }: Told = {}) {
  const recipe = {
    facts: {
      width: 1024,
      height: 512,
      sampling: "smooth",
      keep_shine: false,
      tile_size: null,
      seed: 1,
      edges: { x: "wrap", y: "mirror" },
      edges_from: "told",
      ...facts,
    },
    frame,
    touches,
    nodes: {},
    sources: {},
  };
  const set = { id: "1", head: 2, name: "Felt", recipe, steps, masters: [], tiles: [] };
  return drawn(
    <WholeSet
      set={set as unknown as TextureSet}
      project="p"
      edit={inHand(recipe).edit}
      isOpen={isOpen}
      onOpen={() => {}}
    />,
    seams ? [[["seams", "1", 2], seams]] : [],
  );
}
const buttonOf = (html: string, title: string) =>
  html.match(new RegExp(`<button[^>]*>${title}`))?.[0] ?? "";

describe("what concerns all maps at once", () => {
  it("says its size and how it came in one line, folded or not", () => {
    expect(whole({ isOpen: false }).text).toBe("The whole set 1024 × 512 px, as it came");
    const frame = { width: 4096, height: 2048, steps: [] };
    const one = whole({ frame, steps: [{ kind: "crop", is_on: true }], isOpen: false });
    expect(one.text).toContain("came as 4096 × 2048, then 1 step");
    const on = { kind: "crop", is_on: true };
    const many = whole({ frame, steps: [on, on, { ...on, is_on: false }], isOpen: false });
    expect(many.text).toContain("then 2 steps");
    expect(whole({ frame, isOpen: false }).text).toMatch(/came as 4096 × 2048$/);
  });

  it("tells texels a meter once the tile's width is known", () => {
    expect(whole({ facts: { tile_size: 2 } }).text).toContain("m wide, 512.0 texels a meter");
    expect(whole().text).not.toContain("texels a meter");
    expect(tagOf(whole().html, "Width of the tile in meters")).toContain('placeholder="not known"');
  });

  it("gives other noise only where there is noise", () => {
    expect(buttonOf(whole().html, "Another one")).toContain("disabled=");
    const touches = { roughness: { noise: { amount: 0.1 }, strokes: [] } };
    expect(buttonOf(whole({ touches }).html, "Another one")).not.toContain("disabled=");
  });

  it("crops nothing until a number of it is another one", () => {
    const { html } = whole();
    expect(tagOf(html, "Crop, width")).toContain('value="1024"');
    expect(tagOf(html, "Crop, height")).toContain('value="512"');
    expect(buttonOf(html, "Crop")).toContain("disabled=");
  });

  it("shows where it repeats, and asks to confirm what was guessed", () => {
    const told = whole({ seams: [] });
    expect(tagOf(told.html, "The set across")).toContain('data-key="wrap"');
    expect(tagOf(told.html, "The set down")).toContain('data-key="mirror"');
    expect(told.text).toContain("Told. No given map, so no seam.");
    expect(told.text).not.toContain("Confirm the edges");
    const guessed = whole({ facts: { edges_from: "guessed" } });
    expect(guessed.text).toContain("Guessed from the worst map. Measuring the seams…");
    expect(guessed.text).toContain("Confirm the edges");
    const steps = [{ kind: "repeat", is_on: true }];
    const made = whole({ facts: { edges_from: "guessed" }, steps });
    expect(made.text).toContain("Made to repeat.");
    expect(made.text).not.toContain("Confirm the edges");
  });

  it("has the seam of every given map in numbers", () => {
    const seams = [
      { title: "Base color", across: 1.04, down: 2.55 },
      { title: "Height", across: 0.96, down: 1 },
    ];
    expect(whole({ seams }).text).toContain(
      "Seams: base color 1.0 × across, 2.5 × down; height 1.0 × across, 1.0 × down",
    );
  });

  it("says that lost detail becomes roughness where that is so", () => {
    expect(whole().html.match(/checked=""/g)).toBeNull();
    expect(whole({ facts: { keep_shine: true } }).html.match(/checked=""/g)).toHaveLength(1);
  });
});
