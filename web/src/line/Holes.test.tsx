import { describe, expect, it } from "vitest";
import type { Target } from "../api/client";
import { drawn } from "../drawn";
import { Holes } from "./Holes";

const channel = (quantity: string | null, invert = false) => ({ quantity, invert });
const target = (...files: object[]) =>
  ({ files: files.map((channels, k) => ({ role: `${k}`, channels })) }) as unknown as Target;
const holes = (made: Target) =>
  [...drawn(<Holes target={made} />).html.matchAll(/<i class="([^"]*)"/g)].map(([, look]) => look);

describe("a packing drawn small", () => {
  it("has one long hole for the channels of one map", () => {
    const [color, opacity] = holes(
      target({
        R: channel("base_color"),
        G: channel("base_color"),
        B: channel("base_color"),
        A: channel("opacity"),
      }),
    );
    expect([color, opacity].map((look) => look.match(/w-\[\d+px\]/)?.[0])).toEqual([
      "w-[22px]",
      "w-[6px]",
    ]);
  });

  it("leaves out files that sets seldom have", () => {
    const made = target({ L: channel("roughness") }, { L: channel("own_coat") });
    made.files[1].seldom = true;
    expect(holes(made)).toHaveLength(1);
  });

  it("tells inverted and constant ones from those that are filled", () => {
    const looks = holes(
      target({ R: channel("occlusion"), G: channel("roughness", true), B: channel(null) }),
    );
    expect(looks[0]).toContain("bg-copper");
    expect(looks[1]).toContain("border-copper");
    expect(looks[2]).toContain("border-ink2");
  });

  it("keeps two constants apart, and the same map in two ways", () => {
    expect(holes(target({ R: channel(null), G: channel(null) })).length).toBe(2);
    expect(holes(target({ R: channel("gloss"), G: channel("gloss", true) })).length).toBe(2);
  });
});
