import { describe, expect, it } from "vitest";
import { isOwn, ownKey, ownName } from "./ownKeys";

describe("maps of one's own", () => {
  it("have a key of letters and digits alone, and are called as a person calls them", () => {
    expect(ownKey("Wear mask 2")).toBe("own_wear_mask_2");
    expect(ownName(ownKey("Wear mask 2"))).toBe("wear mask 2");
    expect(ownKey("  Été / dirt!")).toBe("own_e_te_dirt");
  });

  it("have a name where nobody gave one", () => {
    expect(ownKey("")).toBe("own_map");
    expect(ownKey("蚕")).toBe("own_map");
  });

  it("are told from the maps that everybody has", () => {
    expect(isOwn("own_wear")).toBe(true);
    expect(isOwn("roughness")).toBe(false);
  });
});
