import { describe, expect, it } from "vitest";
import type { TextureSet } from "../../../api/client";
import type { MeshLook, Worn } from "../../../api/meshes";
import { drawn, tagOf } from "../../../drawn";
import { inHand } from "../../../samples";
import { BakeSettings } from "./BakeSettings";

const BAKEABLE = [
  { map: "normal", title: "Normal", needs_high: false, needs_closed: false },
  { map: "height", title: "Height", needs_high: true, needs_closed: false },
  { map: "thickness", title: "Thickness", needs_high: false, needs_closed: true },
];
const WORN = {
  material: 0,
  high: [{ name: "clasp_high.glb" }],
  cage: null,
  offset: null,
  rays: 64,
  samples: 2,
  size: null,
  maps: ["normal"],
  is_padded: true,
  is_in_tiles: null,
} as unknown as Worn;
const LOOK = {
  materials: [{ name: "brass", triangles: 12 }],
  tiles: [1001],
  open_edges: 0,
} as unknown as MeshLook;

type Told = { worn?: object; look?: object; sources?: object };

function settings({ worn, look, sources = {} }: Told = {}) {
  const recipe = { facts: { width: 1024, height: 512 }, frame: null, sources };
  return drawn(
    <BakeSettings
      set={{ tiles: [], recipe } as unknown as TextureSet}
      edit={inHand(recipe).edit}
      worn={{ ...WORN, ...worn } as Worn}
      look={{ ...LOOK, ...look } as MeshLook}
    />,
    [[["bakeable"], BAKEABLE]],
  );
}

/** Whether a box is there, ticked, and can be. */
const boxOf = (html: string, title: string) => {
  const tag = html.match(new RegExp(`(<input[^>]*>)\\s*${title}`))?.[1];
  return tag && [tag.includes('checked=""'), !tag.includes('disabled=""')];
};

describe("how a bake is set", () => {
  it("takes its size from the set until one is chosen", () => {
    expect(settings().text).toContain("1024 px, as the set");
    expect(settings({ worn: { size: 4096 } }).text).toContain("4096 px");
    expect(settings().text).toContain("4 a texel");
  });

  it("asks how far rays start above where a high mesh has no cage", () => {
    const label = "How far above the low mesh rays start";
    expect(tagOf(settings({ worn: { offset: 2.5 } }).html, label)).toContain('value="2.5"');
    expect(tagOf(settings().html, label)).toContain('placeholder="found"');
    expect(tagOf(settings({ worn: { cage: { name: "cage.glb" } } }).html, label)).toBe("");
    expect(tagOf(settings({ worn: { high: [] } }).html, label)).toBe("");
  });

  it("offers each map that the meshes can give, and no other", () => {
    const { html } = settings();
    expect(boxOf(html, "Normal")).toEqual([true, true]);
    expect(boxOf(html, "Height")).toEqual([false, true]);
    const low = settings({ worn: { high: [], maps: ["normal", "height"] } }).html;
    expect(boxOf(low, "Height")).toEqual([false, false]);
    expect(boxOf(low, "Thickness")).toEqual([false, true]);
    const open = settings({ worn: { high: [] }, look: { open_edges: 12 } }).html;
    expect(boxOf(open, "Thickness")).toEqual([false, false]);
    expect(boxOf(settings({ look: { open_edges: 12 } }).html, "Thickness")).toEqual([false, true]);
  });

  it("asks which material the set is where a mesh has several", () => {
    const materials = [
      { name: "brass", triangles: 8 },
      { name: "", triangles: 4 },
    ];
    const { html } = settings({ look: { materials }, worn: { material: 1 } });
    expect(tagOf(html, "Which material this set is")).toContain('data-key="1"');
    expect(tagOf(settings().html, "Which material this set is")).toBe("");
  });

  it("bakes each tile unless told otherwise; files of the set decide where there are any", () => {
    const look = { tiles: [1001, 1002, 1011], are_copies: false };
    const title = "Each of its 3 tiles";
    const tiles = (told: Told) => boxOf(settings({ look, ...told }).html, title);
    expect(tiles({})).toEqual([true, true]);
    expect(tiles({ worn: { is_in_tiles: false } })).toEqual([false, true]);
    expect(tiles({ look: { ...look, are_copies: true } })).toEqual([false, true]);
    expect(tiles({ sources: { "a.png": { baked: null } } })).toEqual([false, false]);
    expect(boxOf(settings().html, "Each of its")).toBeUndefined();
  });
});
