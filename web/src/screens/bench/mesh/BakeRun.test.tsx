import { describe, expect, it } from "vitest";
import type { TextureSet } from "../../../api/client";
import type { Bake, MeshLook, useBake, Worn } from "../../../api/meshes";
import { drawn, tagOf } from "../../../drawn";
import { BakeRun } from "./BakeRun";

const set = (stale: string[] = []) =>
  ({
    tiles: [],
    recipe: { facts: { width: 1024, height: 512 }, sources: {} },
    masters: stale.map((map) => ({
      given: { baked: { map, stale: ["the low mesh is another one"] } },
    })),
  }) as unknown as TextureSet;
const BAKEABLE = [
  { map: "normal", title: "Normal", needs_high: true, needs_closed: false },
  { map: "thickness", title: "Thickness", needs_high: false, needs_closed: true },
];
const WORN = {
  high: [{}],
  size: null,
  maps: ["normal", "height"],
  is_in_tiles: null,
} as unknown as Worn;
const LOOK = { has_uv: true, tiles: [1001], are_copies: false } as unknown as MeshLook;
const bake = (told: Partial<Bake>) =>
  ({
    id: "7",
    share: 0,
    doing: "",
    problem: null,
    trial: [],
    findings: [],
    ...told,
  }) as unknown as Bake;

function run(
  told: {
    set?: TextureSet;
    worn?: Partial<Worn>;
    look?: Partial<MeshLook> | null;
    bake?: Bake;
  } = {},
) {
  const acts = { mutate: () => {}, isPending: false };
  const made = { bake: told.bake ?? null, start: acts, stop: acts, error: null };
  return drawn(
    <BakeRun
      set={told.set ?? set()}
      worn={{ ...WORN, ...told.worn }}
      look={told.look === null ? null : { ...LOOK, ...told.look }}
      run={made as unknown as ReturnType<typeof useBake>}
      isBusy={false}
    />,
    [[["bakeable"], BAKEABLE]],
  );
}
const isOff = (html: string, title: string) =>
  new RegExp(`<button[^>]*disabled=""[^>]*>${title}`).test(html);

describe("a bake", () => {
  it("says on its button what it makes, and how large", () => {
    expect(run().text).toBe("Try it small Bake 2 maps, 1024 px");
    expect(run({ worn: { maps: ["normal"], size: 256 } }).text).toContain("Bake 1 map, 256 px");
    expect(run({ look: { tiles: [1001, 1002] } }).text).toContain("Bake 2 maps, 1024 px, 2 tiles");
  });

  it("counts no map that lacks what it is baked from, and cannot begin with none left", () => {
    const alone = { high: [], maps: ["normal", "occlusion", "thickness"] } as Partial<Worn>;
    expect(run({ worn: alone, look: { open_edges: 3 } }).text).toContain("Bake 1 map, 1024 px");
    expect(run({ worn: alone, look: { open_edges: 0 } }).text).toContain("Bake 2 maps, 1024 px");
    expect(isOff(run({ worn: { high: [], maps: ["normal"] } }).html, "Bake")).toBe(true);
  });

  it("cannot begin without UV, without a map, before the mesh was read, or while one goes", () => {
    expect(isOff(run().html, "Bake")).toBe(false);
    expect(isOff(run({ look: { has_uv: false } }).html, "Bake")).toBe(true);
    expect(isOff(run({ worn: { maps: [] } }).html, "Bake")).toBe(true);
    expect(isOff(run({ look: null }).html, "Bake")).toBe(true);
    expect(isOff(run({ bake: bake({ state: "running" }) }).html, "Bake")).toBe(true);
  });

  it("says how far it is and what it does, and can be stopped", () => {
    const { html, text } = run({
      bake: bake({ state: "running", share: 0.376, doing: "Trial at 512 px" }),
    });
    expect(text).toContain("38 % Stop Trial at 512 px");
    expect(tagOf(html, "Progress of the bake")).toContain('value="0.376"');
  });

  it("says how it ended, with what was found", () => {
    const findings = [{ id: "m", grade: "look", text: "0.3 % of the rays met no high mesh." }];
    const { text } = run({
      bake: bake({ state: "failed", problem: "The cage has other corners.", findings } as never),
    });
    expect(text).toContain("The cage has other corners. 0.3 % of the rays met no high mesh.");
    expect(run({ bake: bake({ state: "cancelled" }) }).text).toContain(
      "Stopped. The set is as it was.",
    );
  });

  it("shows the trial's maps by their names", () => {
    const trial = [{ map: "normal", title: "Normal", sha256: "ab" }];
    const { html } = run({ bake: bake({ state: "done", trial }) });
    expect(html).toContain('alt="Trial of Normal"');
    expect(html).toContain("/api/originals/ab/thumbnail");
  });

  it("offers those that are out of date alone", () => {
    expect(run({ set: set(["normal", "height"]) }).text).toContain("Bake the 2 out of date");
    expect(run().text).not.toContain("out of date");
  });
});
