import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../../api/client";
import { drawn, tagOf } from "../../../drawn";
import { during, inHand } from "../../../samples";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { Prepare } = await import("./Prepare");
const { useView } = await import("../view");

const CROP = { kind: "crop", is_on: true, left: 0, top: 0, width: 8, height: 8 };
const SPOTS = { kind: "spots", is_on: true, spots: [] };
const VARIANT = { kind: "variant", is_on: false, seed: 3, cells: 4 };

type Told = { steps?: object[]; edges?: object; tiles?: number[]; isOpen?: boolean };

function prepare({ steps = [], edges, tiles = [], isOpen = true }: Told = {}) {
  const recipe = {
    facts: { width: 64, height: 64, edges: { x: "wrap", y: "wrap", ...edges } },
    frame: { width: 64, height: 64, steps },
  };
  const said = steps.map((step) => ({
    ...step,
    said: `said of ${(step as { kind: string }).kind}`,
  }));
  const set = { id: "1", head: 1, recipe, steps: said, tiles, masters: [] };
  return drawn(
    <Prepare
      set={set as unknown as TextureSet}
      project="p"
      edit={inHand(recipe).edit}
      isOpen={isOpen}
      onOpen={() => {}}
    />,
  );
}

describe("what is done to the pictures first", () => {
  it("is told in one line: the steps that are on, or that there are none", () => {
    expect(prepare({ isOpen: false }).text).toBe("Prepare the pictures as they came");
    const { text } = prepare({ steps: [CROP, SPOTS, VARIANT], isOpen: false });
    expect(text).toBe("Prepare the pictures Crop, Spots");
  });

  it("offers a variant only of what repeats both ways, and one at a time", () => {
    expect(prepare().text).toContain("Make a variant");
    expect(prepare({ edges: { x: "mirror" } }).text).not.toContain("Make a variant");
    const offer = prepare({ steps: [VARIANT] }).html.match(/<button[^>]*>Make a variant/)?.[0];
    expect(offer).toContain("disabled=");
  });

  it("is a list in order, each step with its sentence, a switch and a way off", () => {
    const { html, text } = prepare({ steps: [CROP, VARIANT] });
    expect(text.indexOf("said of crop")).toBeLessThan(text.indexOf("said of variant"));
    expect(tagOf(html, "Crop is on")).toContain("checked");
    expect(tagOf(html, "Variant is on")).not.toContain("checked");
    expect(tagOf(html, "Remove: Variant")).not.toBe("");
  });

  it("opens the step that is in hand, and only what has something to set", () => {
    const prep = { at: 1, shows: "picture", tool: null, radius: 0.02, pointed: null } as const;
    const { html, text } = during(useView, { prep }, () => prepare({ steps: [CROP, SPOTS] }));
    expect(text).toContain("Click on a spot of the picture");
    expect(html.match(/aria-expanded="true"[^>]*class="min-w-0/g)).toHaveLength(1);
    expect(html.match(/aria-expanded="false"[^>]*class="min-w-0/g)).toBeNull(); // a crop has none
  });

  it("leaves the pictures of a set in tiles as they came, and says why", () => {
    const { text } = prepare({ tiles: [1001, 1002] });
    expect(text).toContain("A set in tiles belongs to a mesh, so its pictures stay as they came.");
    expect(text).not.toContain("Straighten");
  });
});
