import { describe, expect, it } from "vitest";
import type { Edit } from "./edit";
import { fieldsOf, isMoved, type Kept, ofNode, ofSource } from "./params";

const edit = {
  recipe: {
    nodes: {
      height: { op: "height_from_color", params: { contrast: 2 } },
      normal: { op: "normal_from_height", params: {} },
    },
    sources: { photo: { corrections: { photo: { saturation: 0.5 } } }, other: { corrections: {} } },
  },
} as unknown as Edit;

describe("where values of controls are kept", () => {
  it("is a step's own parameters, and no other step is touched", () => {
    const kept = ofNode(edit, "height");
    expect(kept.params).toEqual({ contrast: 2 });
    const next = kept.next("smoothing", 0.1);
    expect(next.nodes.height.params).toEqual({ contrast: 2, smoothing: 0.1 });
    expect(next.nodes.normal).toBe(edit.recipe.nodes.normal);
    expect(edit.recipe.nodes.height.params).toEqual({ contrast: 2 });
  });

  it("is what corrects a given map, by what the file holds", () => {
    const kept = ofSource(edit, "photo", "photo");
    const { sources } = kept.next("levels", 0.2);
    expect(sources.photo.corrections).toEqual({ photo: { saturation: 0.5, levels: 0.2 } });
    expect(sources.other).toBe(edit.recipe.sources.other);
    expect(ofSource(edit, "other", "normal").params).toEqual({});
    expect(ofSource(edit, "gone", "normal").params).toEqual({});
  });

  it("is moved where it is told and other than its default", () => {
    const kept: Kept = { params: { contrast: 1, detail: [1, 0.5] }, next: () => edit.recipe };
    expect(isMoved(kept, "contrast", { default: 1 })).toBe(false);
    expect(isMoved(kept, "contrast", { default: 2 })).toBe(true);
    expect(isMoved(kept, "detail", { default: [1, 0.5] })).toBe(false);
    expect(isMoved(kept, "smoothing", { default: 2 })).toBe(false);
  });

  it("is drawn from a schema, in its order", () => {
    const schema = { properties: { b: { title: "B" }, a: { title: "A" } } };
    expect(fieldsOf(schema).map(([name]) => name)).toEqual(["b", "a"]);
    expect(fieldsOf({})).toEqual([]);
  });
});
