import { describe, expect, it, vi } from "vitest";
import type { DeliveryLine as Run } from "../../api/client";
import { drawn } from "../../drawn";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { Before } = await import("./Before");

const PLAN = {
  delivery: "6", // an earlier one, into the same folder
  set: "felt & lace",
  target: "gltf",
  target_title: "Open scene",
  place: null,
  path: null,
};
const run = (told: Partial<Run>) =>
  ({
    id: "7",
    folder: "2026-11-27 felt",
    path: "/srv/deliveries/2026-11-27 felt",
    state: "done",
    stale: false,
    sent: [PLAN],
    ...told,
  }) as unknown as Run;
const before = (...runs: Run[]) =>
  drawn(<Before project="p" heads="1" state={undefined} benchOf={() => null} />, [
    [["deliveries", "p", "1", undefined], runs],
  ]);

describe("what was delivered before", () => {
  it("is nothing while there is none", () => {
    expect(before().html).toBe("");
  });

  it("names the folder, and what went where, with its note, its proof and its zip", () => {
    const { html, text } = before(run({}));
    expect(text).toContain(
      "2026-11-27 felt · Copy path felt & lace → Open scene · hand-over note · proof ✓ delivered Zip",
    );
    expect(html).toContain("/api/deliveries/6/note?set=felt+%26+lace&amp;target=gltf");
    expect(html).toContain('href="/api/deliveries/7/zip"');
  });

  it("has the path of the folder, and of a named one where that is served", () => {
    const sent = { ...PLAN, place: "game/Cloth", path: "/mnt/game/Cloth" };
    const { html, text } = before(run({ sent: [sent] }));
    expect(html).toContain('aria-label="Copy path of 2026-11-27 felt"');
    expect(text).toContain("Open scene · game/Cloth · Copy path · hand-over note");
    expect(before(run({ sent: [{ ...sent, path: null }] })).text).not.toContain("game/Cloth");
  });

  it("offers neither note nor proof of what did not end well", () => {
    const { text } = before(run({ state: "failed" }));
    expect(text).toContain("failed");
    expect(text).not.toContain("proof");
    expect(text).not.toContain("Zip");
  });

  it("folds hundreds of sets away, and says how many there are", () => {
    const sent = Array.from({ length: 20 }, (_, k) => ({ ...PLAN, set: `felt ${k}` }));
    const { text } = before(run({ sent }));
    expect(text).toContain("20 sets → 1 target");
    expect(text).not.toContain("felt 7");
  });

  it("says that a set or a target has changed since", () => {
    expect(before(run({ stale: true })).text).toContain(
      "◆ stale: a set or a target has changed since",
    );
    expect(before(run({})).text).not.toContain("stale");
  });
});
