import { afterEach, expect, test } from "vitest";
import type { TextureSet } from "../api/client";
import { forgetTaken, justTaken, placeOf } from "./justTaken";

afterEach(forgetTaken);

const set = (id: string, mesh?: string) =>
  ({ id, recipe: { worn: mesh ? { low: { sha256: mesh } } : null } }) as TextureSet;

test("one set is looked at on the bench, several beside each other, once", () => {
  expect(placeOf("loom", [set("a")])).toBe("/p/loom/bench/a");
  expect(justTaken()).toEqual([]);
  expect(placeOf("loom", [set("a"), set("b", "cuff"), set("c", "cuff")])).toBe("/p/loom/tray");
  expect(justTaken()).toEqual(["a", "b", "c"]);
  forgetTaken();
  expect(justTaken()).toEqual([]);
});

test("all materials of one mesh are seen on it", () => {
  expect(placeOf("loom", [set("a", "cuff"), set("b", "cuff")])).toBe("/p/loom/bench/b");
  expect(justTaken()).toEqual([]);
});
