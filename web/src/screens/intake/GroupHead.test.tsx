import { describe, expect, it } from "vitest";
import type { TextureSet } from "../../api/client";
import { drawn, tagOf } from "../../drawn";
import type { Line } from "./arrangement";
import { GroupHead } from "./GroupHead";
import type { Group } from "./takeIn";

const line = (key: string, told: object = {}): Line =>
  ({
    row: {
      look: {
        sha256: key,
        name: `${key}.png`,
        readable: true,
        kind: key,
        reads: { L: key },
        spans: {},
      },
      byHand: {},
      isLeftOut: false,
      ...told,
    },
    place: {
      set_name: "felt",
      reads: { L: key },
      rival: null,
      misfit: null,
      tile: null,
      head: null,
    },
    tiles: [],
    gaps: [],
  }) as unknown as Line;
const FELT = {
  id: "1",
  name: "Felt",
  held: { roughness: "roughness" },
} as unknown as TextureSet;

const head = (told: Partial<Group>) =>
  drawn(
    <table>
      <tbody>
        <GroupHead
          group={{
            name: "felt",
            lines: [line("roughness")],
            there: undefined,
            way: undefined,
            isUnsettled: false,
            ...told,
          }}
          onRename={() => {}}
          onWay={() => {}}
        />
      </tbody>
    </table>,
  );

describe("a set to be", () => {
  it("has its name in one field for all of its files, which are counted", () => {
    const { html, text } = head({});
    expect(tagOf(html, "Name of the set felt")).toContain('value="felt"');
    expect(text).toBe("1 file");
    expect(head({ lines: [line("roughness"), line("height")] }).text).toBe("2 files");
    const tiled = {
      ...line("roughness"),
      tiles: [1002, 1003].map((tile) => ({ tile, row: line("roughness").row })),
    };
    expect(head({ lines: [tiled as Line, line("height")] }).text).toBe("4 files");
  });

  it("does not count a document whose layers stand in rows of their own", () => {
    expect(head({ lines: [line("roughness"), line("photo", { isByLayers: true })] }).text).toBe(
      "1 file",
    );
  });

  it("asks what happens where one of that name is there, and says what that one has already", () => {
    const { text } = head({ there: FELT });
    expect(text).toContain("◆ Felt is there already, with roughness of its own:");
    expect(text).toContain("Add to Felt Replace in Felt Another name");
    expect(head({ there: FELT, lines: [line("height")] }).text).toContain("Felt is there already:");
  });

  it("shows what was answered, and asks no more", () => {
    const { html, text } = head({ there: FELT, way: "replace" });
    expect(text).not.toContain("◆");
    expect(html).toMatch(/aria-pressed="true"[^>]*>Replace in Felt/);
  });
});
