import { expect, it, vi } from "vitest";
import type { TextureSet } from "../../api/client";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { outline } = await import("./Lineage");

const master = (key: string, parent: string | null, origin = "derived") => ({
  key,
  parent,
  origin,
});

it("puts every master under what it comes from, and what is absent last", () => {
  const masters = [
    master("normal", "height"),
    master("metallic", null, "absent"),
    master("base_color", null, "given"),
    master("occlusion", "height"),
    master("height", "base_color"),
    master("roughness", "base_color"),
  ];
  const lines = outline({ masters } as unknown as TextureSet);
  expect(lines.map((line) => `${" ".repeat(line.depth)}${line.master.key}`)).toEqual([
    "base_color",
    " height",
    "  normal",
    "  occlusion",
    " roughness",
    "metallic",
  ]);
});
