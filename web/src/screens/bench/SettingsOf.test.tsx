import { describe, expect, it } from "vitest";
import type { TextureSet } from "../../api/client";
import { drawn } from "../../drawn";
import { SettingsOf, SettingsOffered } from "./SettingsOf";

const set = (told: object = {}) =>
  ({
    id: "1",
    name: "Felt",
    head: 2,
    can_undo: false,
    masters: [{ key: "normal", title: "Normal" }],
    ...told,
  }) as unknown as TextureSet;
const saved = (name: string, changes: string[] = ["normal"]) => ({
  name,
  settings: { schema: 1, rise: 0.02, masters: {} },
  changes,
});

describe("settings that were saved", () => {
  const offered = (of: TextureSet, fitting: object[]) =>
    drawn(<SettingsOffered set={of} project="p" />, [
      [["saved settings"], fitting],
      [["saved settings", "1", 2], fitting],
    ]);

  it("are offered to a set as it was taken in, one press each", () => {
    const { text } = offered(set(), [saved("Walls"), saved("Cloth")]);
    expect(text).toBe("Saved settings that fit Walls Cloth");
  });

  it("are not in the way once it was changed, or where none fits", () => {
    expect(offered(set({ can_undo: true }), [saved("Walls")]).text).toBe("");
    expect(offered(set(), []).text).toBe("");
  });
});

describe("settings of a set", () => {
  it("can be kept as a file under its name, and forgotten only where some are kept", () => {
    const of = (rows: object[]) =>
      drawn(<SettingsOf set={set()} project="p" />, [
        [["sets", "p"], [set()]],
        [["saved settings"], rows],
      ]);
    expect(of([]).html).toContain('download="Felt settings.json"');
    expect(of([]).text).not.toContain("Forget");
    expect(of([saved("Walls")]).text).toContain("Forget");
  });
});
