import { describe, expect, it } from "vitest";
import type { Target } from "../../api/client";
import { drawn, tagOf } from "../../drawn";
import { FORMATS } from "../../samples";
import type { TargetFile } from "./edit";
import { FilePanel } from "./FilePanel";

const FILE = {
  role: "surface",
  title: "Surface",
  name: [{ part: "set" }, "_", { part: "map" }],
  word: "orm",
  format: "png",
  depth: 8,
  sample: "uint",
  color: "data",
  primaries: "rec709",
  channels: { R: { quantity: "occlusion" }, G: { quantity: "roughness" }, B: { constant: 0 } },
} as unknown as TargetFile;

function panel(told: Partial<TargetFile> = {}, memory: number | null = null, others = 1) {
  const file = { ...FILE, ...told };
  const files = [file, ...Array(others).fill({ ...FILE, role: "color" })];
  return drawn(
    <FilePanel
      target={{ files } as unknown as Target}
      file={file}
      memory={memory === null ? null : { plain: memory * 4, block: memory }}
      onChange={() => {}}
    />,
    [[["formats"], FORMATS]],
  );
}

describe("one file of a target", () => {
  it("says how it is stored, in trade words", () => {
    const { text } = panel();
    expect(text).toContain("PNG");
    expect(text).toContain("8 bit");
    expect(text).toContain("Data");
    expect(text).toContain("R G B");
  });

  it("says half floats and film primaries by their names", () => {
    const film = { format: "exr", depth: 16, sample: "float", color: "linear" } as const;
    const { text } = panel({ ...film, primaries: "acescg" });
    expect(text).toContain("Half float");
    expect(text).toContain("Color (ACEScg)");
  });

  it.each([
    ["png", false],
    ["tga", false],
    ["jpeg", false],
    ["tiff", true],
    ["exr", true],
    ["exr-tiled", false],
  ] as const)("can be a layer of another where its format has layers: %s", (format, can) => {
    const { html } = panel({ format });
    expect(tagOf(html, "Map word of the layered file") !== "").toBe(can);
  });

  it("has what a texel more costs, and what the same holds, where opacity doubles its memory", () => {
    const withAlpha = (alpha: object) => ({
      channels: { R: {}, G: {}, B: {}, A: alpha } as unknown as TargetFile["channels"],
    });
    const { text } = panel(withAlpha({ quantity: "opacity" }), 4e6);
    expect(text).toContain(
      "block compression costs: 4.0 MB. Two files of three channels cost the same and hold six.",
    );
    expect(text).toContain("Make it two");
    const normal = withAlpha({ quantity: "gloss", component: "v" });
    Object.assign(normal.channels.R, { quantity: "normal", component: "x" });
    expect(panel(normal, 4e6).text).not.toContain("Make it two"); // directions cost as much without it
    expect(panel(withAlpha({ constant: 1 }), 4e6).text).not.toContain("Make it two");
    expect(panel(withAlpha({ quantity: "opacity" })).text).not.toContain("Make it two");
    expect(panel({}, 4e6).text).not.toContain("Make it two");
  });

  it("shows the numbers that it is kept by", () => {
    const told = { size_cap: 2048, size_share: 0.5, padding: 16, dither: true };
    const { html } = panel(told as Partial<TargetFile>);
    expect(tagOf(html, "Longest side in px")).toContain('value="2048"');
    expect(tagOf(html, "Share of the set&#x27;s size")).toContain('value="0.5"');
    expect(tagOf(html, "Padding in texels")).toContain('value="16"');
    expect(html.match(/checked=""/g)).toHaveLength(1);
  });

  it("of a target that has no other cannot be dropped", () => {
    const dropOf = (html: string) => html.match(/<button[^>]*>Drop this file/)?.[0];
    expect(dropOf(panel().html)).not.toContain("disabled=");
    expect(dropOf(panel({}, null, 0).html)).toContain("disabled=");
  });
});
