import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../api/client";
import { drawn, tagOf } from "../../drawn";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { MaskChoice, needOf, OriginChoice } = await import("./OriginChoice");

const SET = { id: "1", head: 2, recipe: { nodes: {} }, masters: [] } as unknown as TextureSet;
const MASTER = { key: "height", title: "Height" };
const choice = (key: string, title: string, is_now = false) => ({ key, title, is_now });

const origin = (choices: object[], needs: Record<string, string> = {}) =>
  drawn(<OriginChoice set={SET} project="p" master={MASTER} />, [
    [["operations"], []],
    [["origins", "1", 2], { height: { choices, needs } }],
  ]);

describe("where a master comes from", () => {
  it("is told by the title of what it comes from now", () => {
    const { html, text } = origin([
      choice("op:a", "from color, by grooves", true),
      choice("absent", "left out"),
    ]);
    expect(tagOf(html, "Where Height comes from")).toContain('data-key="op:a"');
    expect(text).toContain("from color, by grooves");
  });

  it("is open where it comes from nothing that is offered", () => {
    const { html, text } = origin([choice("op:a", "from color")]);
    expect(tagOf(html, "Where Height comes from")).toContain('data-key=""');
    expect(text).toContain("…");
  });
});

describe("what an absent master lacks", () => {
  const lacking = (choices: object[], needs: Record<string, string>) =>
    needOf({ choices, needs } as NonNullable<Parameters<typeof needOf>[0]>);

  it("is said once, whatever lacks it", () => {
    const needs = { "from height": "height", "from depth": "height" };
    expect(lacking([choice("absent", "left out")], needs)).toBe("needs height");
    expect(lacking([], { a: "height", b: "normal" })).toBe("needs height or normal");
  });

  it("is nothing where one way works already, or none is known", () => {
    expect(lacking([choice("op:x", "from color")], { "from height": "height" })).toBeNull();
    expect(lacking([choice("one-value", "one value")], {})).toBeNull();
    expect(needOf(undefined)).toBeNull();
  });
});

describe("where the other map of a mix comes in", () => {
  const mask = (rows: object[]) =>
    drawn(<MaskChoice set={SET} project="p" master={MASTER} />, [
      [["masks", "1", 2], { height: rows }],
    ]);

  it("is everywhere until it is limited", () => {
    const everywhere = choice("everywhere", "everywhere", true);
    const folds = choice("folds", "in folds, by the curvature");
    const label = "Mask of the other Height";
    expect(tagOf(mask([everywhere, folds]).html, label)).toContain('data-key="everywhere"');
    const limited = mask([
      { ...everywhere, is_now: false },
      { ...folds, is_now: true },
    ]);
    expect(tagOf(limited.html, label)).toContain('data-key="folds"');
    expect(limited.text).toContain("in folds, by the curvature");
  });
});
