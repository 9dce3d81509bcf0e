import { beforeEach, describe, expect, it, vi } from "vitest";

const kept = new Map<string, string>();
vi.stubGlobal("localStorage", {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, value: string) => kept.set(key, value),
});
const { isMeant, useView } = await import("./view");
const begun = useView.getState();
const view = () => useView.getState();

describe("how the bench is looked at", () => {
  beforeEach(() => useView.setState(begun, true));

  it("takes the flat picture for picking and gives back what was there before", () => {
    view().set({ look: "lit", pictures: "one" });
    view().pick({ node: "height", value: 1 });
    expect(view()).toMatchObject({ look: "flat", pictures: "divide", lookBefore: "lit" });
    expect(view().other.flat).toBe("master:base_color");
    view().pick({ node: "height", value: 0 }); // what comes next begins where it began
    expect(view().lookBefore).toBe("lit");
    view().pick(null);
    expect(view()).toMatchObject({ look: "lit", pictures: "one", lookBefore: null });
  });

  it("remembers the look for the next day, and not the one that picking took", () => {
    view().set({ look: "lit" });
    expect([...kept.values()]).toEqual(["lit"]);
    view().pick({ node: "height", value: 1 });
    expect([...kept.values()]).toEqual(["lit"]);
  });

  it("shows the picture a step prepares, the result three by three, and one again after", () => {
    view().set({ look: "lit", tiles: 2 });
    view().openPrep(0);
    expect(view()).toMatchObject({ look: "pair", tiles: 1, pictures: "one" });
    view().showPrep("result");
    expect(view()).toMatchObject({ tiles: 3 });
    view().set({ prep: { ...(view().prep ?? begun.prep), radius: 0.1 } as never });
    view().openPrep(1);
    // as large as before
    expect(view().prep).toMatchObject({ at: 1, shows: "picture", radius: 0.1 });
    view().openPrep(null);
    expect(view()).toMatchObject({ prep: null, tiles: 1 });
    view().showPrep("result");
    expect(view()).toMatchObject({ prep: null, tiles: 1 });
  });

  it("takes up the brush as it was laid down, over another master", () => {
    view().openBrush("height");
    view().set({ brush: { ...begun.lastBrush, master: "height", radius: 0.2, way: "raise" } });
    view().openBrush(null);
    expect(view().brush).toBeNull();
    view().openBrush("roughness");
    expect(view().brush).toMatchObject({ master: "roughness", radius: 0.2, way: "raise" });
    view().openBrush("opacity");
    expect(view().brush).toMatchObject({ master: "opacity", radius: 0.2 });
  });

  it("tests the light on a plane in clay with both readings of green", () => {
    view().set({ place: [1, 2, 3], tiles: 3 });
    view().testLight();
    expect(view()).toMatchObject({
      look: "lit",
      body: "plane",
      isClay: true,
      tiles: 1,
      place: null,
    });
    expect(view().other.lit).toBe("green");
    expect(view().pictures).toBe("divide");
  });

  it("means the picture in hand where there are two", () => {
    view().set({ look: "pair", active: "lit" });
    expect([isMeant("flat"), isMeant("lit")]).toEqual([false, true]);
    view().set({ look: "flat" });
    expect(isMeant("flat")).toBe(true);
  });
});
