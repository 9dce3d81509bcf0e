import { describe, expect, it, vi } from "vitest";
import type { TextureSet } from "../../api/client";
import { drawn, tagOf } from "../../drawn";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { History } = await import("./History");

const version = (id: number, told: object = {}) => ({
  id,
  note: `step ${id}`,
  name: null,
  is_head: false,
  created: "2026-03-01T12:00:00Z",
  ...told,
});

const history = (versions: object[], isOpen = true) =>
  drawn(
    <History
      set={{ id: "1", head: 3 } as TextureSet}
      project="p"
      isOpen={isOpen}
      onOpen={() => {}}
    />,
    [[["versions", "1", 3], versions]],
  );

describe("the steps of a set", () => {
  it("are folded away until they are asked for", () => {
    expect(history([version(3)], false).text).not.toContain("step 3");
  });

  it("can each be compared with and gone to, but for the one it stands at", () => {
    const { html, text } = history([version(3, { is_head: true }), version(2)]);
    expect(text.indexOf("step 3")).toBeLessThan(text.indexOf("step 2"));
    expect(html.match(/disabled=""[^>]*>Go there/g)).toHaveLength(1);
    expect(html.match(/disabled=""[^>]*>Compare/g)).toHaveLength(1);
  });

  it("carry the names they were given, and say something where nothing was noted", () => {
    const { html, text } = history([version(3, { name: "steep" }), version(2, { note: "" })]);
    expect(tagOf(html, "Name of the version step 3")).toContain('value="steep"');
    expect(text).toContain("changed");
  });
});
