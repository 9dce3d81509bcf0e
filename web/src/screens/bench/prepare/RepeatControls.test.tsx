import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../../api/client";
import { drawn, tagOf } from "../../../drawn";
import type { StepOf } from "./steps";
import type { Preparing } from "./useSteps";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { askedOf } = await import("./asking");
const { RepeatControls } = await import("./RepeatControls");
const { SpotsControls } = await import("./SpotsControls");
const { VariantControls } = await import("./VariantControls");

const hand = (isBusy = false, asked: object | null = null) =>
  ({
    isBusy,
    isDeciding: asked !== null,
    askedAt: (_: number, step: StepOf<"repeat">) => ({ ...askedOf(step), ...asked }),
  }) as unknown as Preparing;
const join = (side: number) => ({ side, overlap: 0.2 });

const REPEAT = {
  kind: "repeat",
  x: join(0.8),
  y: join(0.75),
  sides: [null, null],
  overlap: null,
  guide: { keep: [], avoid: [] },
  period: [null, null],
  structure: 0,
  is_square: false,
  even: null,
  seen: { mean: 1.04, worst: 1.61 },
  is_quick: false,
} as unknown as StepOf<"repeat">;

const repeat = (told: object = {}, isBusy = false) =>
  drawn(<RepeatControls at={0} step={{ ...REPEAT, ...told }} steps={hand(isBusy)} />);
const buttonOf = (html: string, title: string) =>
  html.match(new RegExp(`<button[^>]*>${title}`))?.[0] ?? "";

describe("a repeat", () => {
  it("tells the tile's sides as shares of the picture, and how much its line shows", () => {
    const { html, text } = repeat();
    expect(tagOf(html, "Tile across")).toContain('value="80.0"');
    expect(tagOf(html, "Tile down")).toContain('value="75.0"');
    expect(text).toContain("mean 1.04, worst stretch 1.61");
    expect(text).not.toContain("sketched");
    expect(repeat({ is_quick: true }).text).toContain("worst stretch 1.61, sketched");
  });

  it("of one axis keeps that one, and asks nothing of a square", () => {
    const { html, text } = repeat({ y: null });
    expect(tagOf(html, "Repeat across")).toContain("disabled");
    expect(tagOf(html, "Repeat down")).not.toContain("disabled");
    expect(tagOf(html, "Repeat down")).not.toContain("checked");
    expect(text).not.toContain("Square");
    expect(tagOf(repeat().html, "Repeat across")).not.toContain("disabled");
  });

  it("takes its overlap from the joins until one is typed, which can be taken back", () => {
    const overlap = (told: object) => tagOf(repeat(told).html, "Overlap");
    expect(overlap({})).toContain('aria-valuetext="20.00 % of tile"');
    expect(overlap({ overlap: 0.35 })).toContain('aria-valuetext="35.00 % of tile"');
    const resetOf = (told: object) => tagOf(repeat(told).html, "Reset Overlap");
    expect(resetOf({ overlap: 0.35 })).not.toBe(resetOf({}));
  });

  it("can be fitted again only where sides were typed, and wiped where something was painted", () => {
    expect(buttonOf(repeat().html, "Fit the tile again")).toContain("disabled=");
    expect(buttonOf(repeat({ sides: [0.7, null] }).html, "Fit the tile again")).not.toContain(
      "disabled=",
    );
    expect(buttonOf(repeat().html, "Wipe")).toContain("disabled=");
    const guide = { keep: [{}], avoid: [] };
    expect(buttonOf(repeat({ guide }).html, "Wipe")).not.toContain("disabled=");
  });

  it("offers to follow a pattern where the picture has one, then counts its repeats", () => {
    expect(repeat().text).not.toContain("Pattern");
    expect(repeat({ structure: 0.5 }).text).toContain("Follow it");
    const { html, text } = repeat({ structure: 0.5, period: [0.2, 0.25] });
    expect(text).not.toContain("Follow it");
    expect(tagOf(html, "Repeats of the pattern across")).toContain('value="4"');
    expect(tagOf(html, "Repeats of the pattern down")).toContain('value="3"');
    const uneven = repeat({ period: [0.3, null] });
    expect(tagOf(uneven.html, "Repeats of the pattern across")).toContain('value="2.67"');
    expect(tagOf(uneven.html, "Repeats of the pattern down")).toBe("");
  });

  it("shows what was asked for while its line is looked for", () => {
    const asked = { is_square: true, evens: true, y: true };
    const { html, text } = drawn(<RepeatControls at={0} step={REPEAT} steps={hand(true, asked)} />);
    const ticks = html.match(/<input type="checkbox"[^>]*>/g) ?? [];
    expect(ticks).toHaveLength(4);
    for (const tick of ticks) expect(tick).toContain("checked");
    expect(text).toContain("Looking for the line …");
    expect(text).not.toContain("worst stretch");
    expect(repeat().html.match(/<input type="checkbox"[^>]*checked/g)).toHaveLength(2);
  });

  it("takes no other order while one is carried out", () => {
    const { html } = repeat({ guide: { keep: [{}], avoid: [] }, sides: [0.7, null] }, true);
    for (const title of ["Wipe", "Fit the tile again", "Find the line again"])
      expect(buttonOf(html, title)).toContain("disabled=");
    expect(tagOf(html, "Repeat across")).toContain("disabled");
  });
});

describe("spots that are taken out", () => {
  const spots = (...list: object[]) =>
    drawn(
      <SpotsControls
        at={0}
        step={{ kind: "spots", spots: list } as unknown as StepOf<"spots">}
        steps={hand()}
      />,
    );
  const spot = { x: 0.25, y: 0.5, across: 0.03, brush: 0 };

  it("say how to begin, and how to go on", () => {
    expect(spots().text).toContain("Click on a spot of the picture:");
    expect(spots(spot).text).toContain("Click on another spot.");
  });

  it("are a list by place and size, each with another place and a way back", () => {
    const { html, text } = spots(spot, { ...spot, x: 0.9, brush: 0.01 });
    expect(text).toContain("Spot 1 at 25, 50 %, 6.0 % across");
    expect(text).toContain("Spot 2 at 90, 50 %, 6.0 % across, brushed");
    expect(tagOf(html, "Another place for spot 2")).not.toBe("");
    expect(tagOf(html, "Put back spot 1")).not.toBe("");
  });
});

describe("variants", () => {
  const variant = (
    seed: number,
    structure?: number,
    isBusy = false,
    pieces: object | null = null,
  ) =>
    drawn(
      <VariantControls
        at={0}
        step={{ kind: "variant", seed, cells: 4, pieces } as unknown as StepOf<"variant">}
        steps={hand(isBusy)}
        set={{ id: "1" } as TextureSet}
        project="p"
        structure={structure}
      />,
    );

  it("count from 1, and go back to the one before", () => {
    expect(buttonOf(variant(1).html, "The one before")).toContain("disabled=");
    expect(buttonOf(variant(2).html, "The one before")).not.toContain("disabled=");
    expect(buttonOf(variant(2, 0, true).html, "Another one")).toContain("disabled=");
  });

  it("warn of blended forms where the picture was measured to follow a pattern", () => {
    const warning = "its forms are blended into each other";
    expect(variant(1, 0.4).text).toContain(warning);
    expect(variant(1, 0.1).text).not.toContain(warning);
    expect(variant(1).text).not.toContain(warning);
    const pieces = { seen: { mean: 0.93, most: 1, worst: 1.4 } };
    const cut = variant(1, 0.4, false, pieces).text;
    expect(cut).not.toContain(warning);
    expect(cut).toContain("mean 0.93, worst stretch 1.40");
  });
});
