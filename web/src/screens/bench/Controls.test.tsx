import { describe, expect, it, vi } from "vitest";
import type { Control, Operation, TextureSet } from "../../api/client";
import { drawn, tagOf } from "../../drawn";
import { controlOf, inHand } from "../../samples";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { Controls } = await import("./Controls");

const MASTER = {
  key: "roughness",
  title: "Roughness",
  low: 0,
  high: 1,
  absent: [0.5],
} as unknown as TextureSet["masters"][number];

type Parts = Record<string, Partial<Control>>;

function controls(parts: Parts, params: object = {}, inputs: object = {}) {
  const { edit } = inHand({ nodes: { rough: { op: "x", inputs, params } } });
  const rows = Object.entries(parts).map(([name, part]) => controlOf(name, part));
  const operation = { params: rows } as unknown as Operation;
  return drawn(<Controls master={MASTER} node="rough" operation={operation} edit={edit} />);
}

const RADIUS = { title: "Radius", unit: "% of width", scale: 100, minimum: 0, maximum: 0.1 };
const VALUE: Partial<Control> = { title: "Value", kind: "value" };

describe("the controls of a step", () => {
  it("show a number in its unit, as it is kept or else at its default", () => {
    const radius = { ...RADIUS, default: 0.02 };
    expect(tagOf(controls({ radius }).html, "Radius, number")).toContain('value="2.00"');
    const kept = controls({ radius }, { radius: 0.045 });
    expect(tagOf(kept.html, "Radius, number")).toContain('value="4.50"');
    expect(kept.text).toContain("% of width");
  });

  it("take range and start of a constant from its master", () => {
    const value = { ...VALUE, default: 0.25 };
    const { html } = controls({ value }, { value: 0.75 });
    expect(tagOf(html, "Value, number")).toContain('value="0.750"');
    expect(controls({ value }).text).toContain("0 … 1");
  });

  it("name values that have names, and press the one that is kept", () => {
    const marks = [
      { name: "dull", value: 0.8 },
      { name: "polished", value: 0.2 },
    ];
    const shine = { title: "Shine", minimum: 0, maximum: 1, default: 0.8, marks };
    const pressed = (html: string) =>
      html.match(/aria-pressed="true"[^>]*>([^<]*)/g)?.map((tag) => tag.split(">")[1]);
    expect(pressed(controls({ shine }, { shine: 0.2 }).html)).toEqual(["polished"]);
    expect(pressed(controls({ shine }, { shine: 0.3 }).html)).toBeUndefined();
  });

  it("show a choice by its titles, a switch as a box", () => {
    const options = [
      { key: "a", title: "By hand" },
      { key: "b", title: "By eye" },
    ];
    const way: Partial<Control> = { title: "Way", kind: "choice", options, default: "b" };
    const wraps: Partial<Control> = { title: "Wraps", kind: "switch", default: true };
    const { html, text } = controls({ way, wraps });
    expect(text).toContain("By eye");
    expect(tagOf(html, "Wraps")).toContain('checked=""');
    expect(tagOf(controls({ wraps }, { wraps: false }).html, "Wraps")).not.toContain("checked");
  });

  it("leave out what would not act: a parameter that needs an input which is not there", () => {
    const mask: Partial<Control> = { title: "By mask", kind: "switch", needs: "mask" };
    expect(tagOf(controls({ mask }).html, "By mask")).toBe("");
    expect(tagOf(controls({ mask }, {}, { mask: "m" }).html, "By mask")).not.toBe("");
  });

  it("fold away what is seldom moved, by name, until it was", () => {
    const radius = { ...RADIUS, default: 0.02, is_seldom: true };
    const folded = controls({ radius });
    expect(folded.text).toContain("More: radius");
    expect(tagOf(folded.html, "Radius, number")).toBe("");
    expect(controls({ radius }, { radius: 0.02 }).text).toContain("More: radius");
    const moved = controls({ radius }, { radius: 0.03 });
    expect(moved.text).toContain("Less");
    expect(tagOf(moved.html, "Radius, number")).toContain('value="3.00"');
  });

  it("ask for a color in the browser's own field, or say that there is none yet", () => {
    const color: Partial<Control> = { title: "Color", kind: "color" };
    expect(controls({ color }).text).toContain("none yet From the picture");
    expect(controls({ color }, { color: "#C08040" }).text).toContain("#C08040");
    expect(tagOf(controls({ color }, { color: "#C08040" }).html, "Color")).toContain("#c08040");
  });

  it("show one color everywhere as the code of what is held in linear light", () => {
    const value = { ...VALUE, default: 0.5 };
    const { html } = controls({ value }, { value: [0.2158605, 1, 0] });
    expect(tagOf(html, "Value")).toContain('value="#80ff00"');
    expect(tagOf(html, "Value, code")).toContain('value="#80FF00"');
  });
});
