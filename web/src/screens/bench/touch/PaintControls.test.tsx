import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../../api/client";
import { drawn, tagOf } from "../../../drawn";
import { during, inHand } from "../../../samples";
import type { Brush } from "../view";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { PaintControls } = await import("./PaintControls");
const { useView } = await import("../view");

const before = useView.getInitialState();

const stroke = { way: "paint", is_on: true, value: 0.25, color: null, points: [[0.5, 0.5]] };

type Told = { strokes?: object[]; noise?: object | null; key?: string; absent?: number[] };

function paint({ strokes = [], noise = null, key = "roughness", absent = [0.6] }: Told = {}) {
  const { edit } = inHand({ touches: { [key]: { strokes, noise } }, sources: {} });
  const master = { key, title: "Roughness", absent, low: 0, high: 1 };
  return drawn(
    <PaintControls master={master as unknown as TextureSet["masters"][number]} edit={edit} />,
  );
}

/** What is drawn while the brush is over a master. */
const withBrush = (master: string, held: Partial<Brush>, told: Told = {}) =>
  during(useView, { brush: { master, ...before.lastBrush, ...held } }, () => paint(told));

describe("what is laid over a map by hand", () => {
  it("is offered as a brush and noise, and counted once it is there", () => {
    expect(paint().text).toBe("By hand Brush B Add noise");
    expect(paint({ strokes: [stroke] }).text).toContain("1 stroke");
    expect(paint({ strokes: [stroke, stroke] }).text).toContain("2 strokes");
  });

  it("is noise alone for normals, and strokes alone for colors", () => {
    const normal = paint({ key: "normal", absent: [0, 0, 1] }).text;
    expect(normal).toContain("Over it Add noise");
    expect(normal).not.toContain("Brush");
    const color = paint({ key: "base_color", absent: [0.5, 0.5, 0.5] }).text;
    expect(color).toContain("Brush");
    expect(color).not.toContain("Add noise");
  });

  it("begins with nothing painted, and what the brush does", () => {
    const { html, text } = withBrush("roughness", {});
    expect(text).toContain("Nothing painted yet: draw on the picture.");
    expect(text).toContain("Paint Raise Lower Soften Erase");
    expect(tagOf(html, "Reach")).toContain("% of width");
    expect(text).not.toContain("Color");
  });

  it("of another map is not in this one's hand", () => {
    expect(withBrush("metallic", {}).text).toBe("By hand Brush B Add noise");
  });

  it("of a color asks for its color, and has no raising or lowering", () => {
    const color = { key: "base_color", absent: [0.5, 0.5, 0.5] };
    const { html, text } = withBrush("base_color", { color: "#c08040" }, color);
    expect(text).toContain("Paint Soften Erase");
    expect(tagOf(html, "Color of the stroke")).toContain('value="#c08040"');
    expect(text).toContain("#C08040");
  });

  it("asks no value of a stroke that has none", () => {
    expect(tagOf(withBrush("roughness", { way: "soften" }).html, "Value")).toBe("");
    expect(tagOf(withBrush("roughness", { way: "raise" }).html, "Value")).not.toBe("");
  });
});
