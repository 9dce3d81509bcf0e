import { expect, test } from "vitest";
import { toggled } from "./choice";

test("a key comes into the list at its end, and goes out of it again", () => {
  expect(toggled(["a"], "b")).toEqual(["a", "b"]);
  expect(toggled(["a", "b"], "a")).toEqual(["b"]);
  const before = ["a"];
  toggled(before, "a");
  expect(before).toEqual(["a"]);
});
