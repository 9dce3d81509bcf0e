import { describe, expect, it } from "vitest";
import { controlOf } from "../../samples";
import type { Edit } from "./edit";
import { isMoved, type Kept, numbersIn, ofNode, ofSource, picksIn, wordsIn } from "./params";

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
    expect(isMoved(kept, controlOf("contrast", { default: 1 }))).toBe(false);
    expect(isMoved(kept, controlOf("contrast", { default: 2 }))).toBe(true);
    expect(isMoved(kept, controlOf("detail", { default: [1, 0.5] }))).toBe(false);
    expect(isMoved(kept, controlOf("smoothing", { default: 2 }))).toBe(false);
  });

  it("are read as what they are to be, and as nothing where they are not", () => {
    const spot = { x: 0.5, y: 0.25, value: 1 };
    expect(picksIn([spot])).toEqual([spot]);
    expect(picksIn([spot, { x: 1 }])).toEqual([]);
    expect(picksIn(undefined)).toBe(picksIn("none")); // the stage is not drawn anew for it
    expect(numbersIn([1, 0.5])).toEqual([1, 0.5]);
    expect(numbersIn([1, "a"])).toEqual([]);
    expect(numbersIn(1)).toEqual([]);
    expect(wordsIn("#C08040")).toBe("#C08040");
    expect(wordsIn(null)).toBeNull();
  });
});
