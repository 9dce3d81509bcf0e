import { describe, expect, it } from "vitest";
import type { Recipe, TextureSet } from "../../api/client";
import {
  endsOf,
  freshness,
  hasOther,
  isWornOtherwise,
  keyOf,
  leftTitle,
  otherRecipe,
  othersOf,
  otherTitle,
} from "./comparing";
import type { Other } from "./view";

const [now, before, version] = ["now", "before", "version"].map(
  (name) => ({ name }) as unknown as Recipe,
);
const asked = { look: "flat" as const, isShown: true, recipe: now, before, version };
const set = {
  masters: [
    { key: "height", title: "Height", origin: "derived" },
    { key: "normal", title: "Normal", origin: "given" },
    { key: "emissive", title: "Emissive", origin: "absent" },
  ],
} as unknown as TextureSet;

const offered = {
  set,
  chosen: "height",
  other: "before" as Other,
  situation: "indoor" as const,
  environments: [{ id: "e1", name: "yard.exr" }],
  isDisplaced: false,
  starts: [{ key: "brick", title: "Brick" }],
};

describe("the other picture", () => {
  it.each([
    ["before", before],
    ["version:3", version],
    ["start:brick", version],
    ["master:normal", now],
    ["target:gltf", now],
  ] as [Other, Recipe][])("of %s is made by its own recipe", (other, wanted) => {
    expect(otherRecipe({ ...asked, other })).toBe(wanted);
  });

  it("is nothing while it is not shown, and a misreading shows the first one's maps", () => {
    expect(otherRecipe({ ...asked, other: "before", isShown: false })).toBeNull();
    expect(otherRecipe({ ...asked, other: "green", look: "lit" })).toBeNull();
  });

  it("is missing where there is no step before, or no version yet", () => {
    expect(hasOther({ other: "before", before: null, version: null })).toBe(false);
    expect(hasOther({ other: "version:1", before: null, version: null })).toBe(false);
    expect(hasOther({ other: "start:brick", before: null, version: null })).toBe(false);
    expect(hasOther({ other: "green", before: null, version: null })).toBe(true);
  });

  it("offers masters that are there, but not the one that is shown", () => {
    expect(othersOf({ ...offered, look: "flat" }).map(([key]) => key)).toEqual([
      "before",
      "master:normal",
      "start:brick",
    ]);
    const lit = othersOf({ ...offered, look: "lit", other: "version:2" }).map(([key]) => key);
    expect(lit).toEqual([
      "green",
      "bare",
      "before",
      "without:normal",
      "without:height",
      "displacement",
      "light:overcast",
      "light:low-sun",
      "light:own:e1",
      "version:2",
      "start:brick",
    ]);
    expect(lit.filter(isWornOtherwise)).toHaveLength(8);
  });

  it("has a name, a target's behind whose eyes it is", () => {
    const others = othersOf({ ...offered, look: "flat" });
    expect(otherTitle("master:normal", others, [])).toBe("Normal");
    expect(otherTitle("target:gltf", others, [["target:gltf", "glTF"]])).toBe("As seen by: glTF");
    expect(otherTitle("target:gone", others, [])).toBe("As seen by: gone");
  });
});

describe("what is written over the picture", () => {
  const said = { here: "Height", there: "Normal", gain: 4, isSwapped: false, hasOther: true };
  it("says what is shown", () => {
    expect(leftTitle({ ...said, pictures: "one" })).toBe("Height");
    expect(leftTitle({ ...said, pictures: "one", isSwapped: true })).toBe("Normal");
    expect(leftTitle({ ...said, pictures: "difference" })).toContain("what differs, × 4");
  });
  it("says a problem before anything else", () => {
    expect(freshness(new Error("gone"), true, 512)).toContain("gone");
    expect(freshness(null, true, 512)).toContain("computing");
    expect(freshness(null, false, 512)).toContain("512 px");
    expect(freshness(null, false, null)).toBe("");
  });
  it("names the axes that do not repeat", () => {
    expect(endsOf({ x: "mirror", y: "wrap" })).toEqual(["across"]);
    expect(endsOf({ x: "wrap", y: "wrap" })).toEqual([]);
  });
  it("takes keys apart", () => {
    expect(keyOf("master:own_wear", "master")).toBe("own_wear");
    expect(keyOf("before", "master")).toBeNull();
  });
});
