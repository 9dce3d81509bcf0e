import { describe, expect, it } from "vitest";
import { drawn } from "../../drawn";
import { IntakeLine } from "./IntakeLine";

type Told = Partial<Parameters<typeof IntakeLine>[0]>;

const line = (told: Told = {}) =>
  drawn(
    <IntakeLine
      meshes={0}
      sets={1}
      files={1}
      stays={0}
      size="1024 × 1024 px"
      usual={[]}
      isReady
      taking={null}
      onStop={() => {}}
      onUsual={() => {}}
      onTakeIn={() => {}}
      onDeliver={() => {}}
      {...told}
    />,
    [[["targets"], []]],
  );
const isOff = (html: string, title: string) =>
  new RegExp(`<button[^>]*disabled=""[^>]*>${title}`).test(html);

describe("what comes next after intake", () => {
  it("counts sets, files and meshes in words", () => {
    expect(line().text).toContain("1 set, 1 file 1024 × 1024 px");
    expect(line({ sets: 3, files: 12, meshes: 1 }).text).toContain("3 sets, 12 files, 1 mesh");
    expect(line({ files: 0, meshes: 2 }).text).toContain("1 set, 2 meshes");
    expect(line({ sets: 0, files: 0 }).text).toContain("0 sets 1024 × 1024 px");
  });

  it("says how far it is with many sets, and can be stopped", () => {
    const { text } = line({ taking: { done: 6, of: 300 } });
    expect(text).toContain("Taking in 7 of 300 Stop");
    expect(line({ taking: { done: 0, of: 1 } }).text).not.toContain("Stop");
  });

  it("says how many files stay behind", () => {
    expect(line({ stays: 1 }).text).toContain("1 file stays in this table");
    expect(line({ stays: 4 }).text).toContain("4 files stay in this table");
  });

  it("names the usual targets by their keys until their titles are known, each to be pressed away", () => {
    const { html, text } = line({ usual: ["gltf"] });
    expect(text).toContain("gltf ×");
    expect(html).toContain('aria-label="Do not deliver to gltf"');
    expect(text).toContain("Other targets");
    expect(line().text).toContain("Choose targets");
  });

  it("delivers only to some target, and does nothing before it is ready", () => {
    expect(isOff(line().html, "Take in and deliver")).toBe(true);
    expect(isOff(line({ usual: ["gltf"] }).html, "Take in and deliver")).toBe(false);
    const waiting = line({ usual: ["gltf"], isReady: false }).html;
    expect(isOff(waiting, "Take in and deliver")).toBe(true);
    expect(waiting).toMatch(/disabled=""[^>]*>Take in 1 set/);
  });
});
