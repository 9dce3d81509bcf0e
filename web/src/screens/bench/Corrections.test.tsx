import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../api/client";
import { drawn, tagOf } from "../../drawn";
import { controlOf, inHand } from "../../samples";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { Corrections } = await import("./Corrections");

const KINDS = ["gray", "normal"].map((kind) => ({
  kind,
  params: [controlOf("contrast", { title: "Contrast", maximum: 2, default: 1 })],
}));

function corrections(source: object = {}, held = "roughness", correction = "gray") {
  const { edit } = inHand({
    sources: {
      "r.png": { depth: 8, sampling: null, smooth_steps: false, corrections: {}, ...source },
    },
  });
  const given = { source: "r.png", held, correction };
  const master = { key: held, title: "Roughness", low: 0, high: 1, absent: [0.5], given };
  return drawn(
    <Corrections master={master as unknown as TextureSet["masters"][number]} edit={edit} />,
    [[["corrections"], KINDS]],
  );
}

describe("corrections of a given map", () => {
  it("are folded away while nothing was said", () => {
    const { html, text } = corrections();
    expect(text).toBe("Corrections");
    expect(html).toContain('aria-expanded="false"');
  });

  it("open by themselves where something was, counted, and can be taken back in one press", () => {
    const told = { corrections: { roughness: { contrast: 1.5 } }, sampling: "nearest" };
    const { html, text } = corrections(told);
    expect(text).toContain("Corrections (2) As it came");
    expect(text).toContain("as pixel art, sharp");
    expect(tagOf(html, "Contrast, number")).toContain('value="1.500"');
  });

  it("at their defaults are none", () => {
    expect(corrections({ corrections: { roughness: { contrast: 1 } } }).text).toBe("Corrections");
  });

  it("offer to smooth the steps of a height of few bits, and of nothing else", () => {
    const smooth = "Smooth the steps of 8 bits";
    const said = { sampling: "smooth" };
    expect(corrections({ ...said, depth: 8 }, "height").text).toContain(smooth);
    expect(corrections({ ...said, depth: 32 }, "height").text).not.toContain(smooth);
    expect(corrections(said).text).not.toContain(smooth);
    expect(corrections({ smooth_steps: true }, "height").html).toContain('checked=""');
  });

  it("ask which axis points up of normals in object space", () => {
    const up = (held: string) =>
      tagOf(
        corrections({ sampling: "smooth", object_up: "z" }, held, "normal").html,
        "Which axis of the file points up",
      );
    expect(up("object_normal")).toContain('data-key="z"');
    expect(up("normal")).toBe("");
  });
});
