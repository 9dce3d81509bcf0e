import { describe, expect, it } from "vitest";
import { drawn, tagOf } from "../../drawn";
import type { Line } from "./arrangement";
import { FileRow } from "./FileRow";

const LOOK = {
  sha256: "a1",
  name: "felt grün_r.png",
  set_name: "felt",
  readable: true,
  kind: "roughness",
  reads: { L: "roughness" },
  spans: {},
  letters: "L",
  width: 512,
  height: 256,
  depth: 8,
  confidence: 0.934,
  because: ["its name says so"],
  guesses: [],
  layers: [],
  findings: [],
  green: null,
};

type Told = { look?: object; row?: object; place?: object; tiles?: object[]; gaps?: number[] };

const lineOf = ({ look, row, place, tiles = [], gaps = [] }: Told): Line =>
  ({
    row: { look: { ...LOOK, ...look }, byHand: {}, isLeftOut: false, ...row },
    place: {
      set_name: "felt",
      reads: LOOK.reads,
      rival: null,
      misfit: null,
      tile: null,
      head: null,
      ...place,
    },
    tiles,
    gaps,
  }) as unknown as Line;

const rowOf = (told: Told = {}) =>
  drawn(
    <table>
      <tbody>
        <FileRow
          line={lineOf(told)}
          isOpen={false}
          onChange={() => {}}
          onLeaveOut={() => {}}
          onLayers={async () => {}}
          onOpen={() => {}}
        />
      </tbody>
    </table>,
  );

describe("one file of the table", () => {
  it("says what it is, how large and deep, how sure that is, and why", () => {
    const { html, text } = rowOf();
    expect(text).toContain("felt grün_r.png");
    expect(text).toContain("512 × 256 8 bit L 93 %");
    expect(text).toContain("its name says so");
    expect(tagOf(html, "Set of felt grün_r.png")).toContain('value="felt"');
    expect(tagOf(html, "Green of felt grün_r.png")).toBe("");
  });

  it("asks for green's way of a normal map alone, and takes unsure for up", () => {
    const green = (said: string | null) => {
      const { html } = rowOf({ look: { kind: "normal", green: said } });
      return tagOf(html, "Green of felt grün_r.png").match(/data-key="(\w+)"/)?.[1];
    };
    expect([green("down"), green("up"), green("unsure"), green(null)]).toEqual([
      "down",
      "up",
      "up",
      "up",
    ]);
  });

  it("that nobody knows names its likeliest kind with a question mark, and the keys", () => {
    const look = { kind: "unknown", reads: {}, guesses: ["roughness", "metallic"] };
    const { text } = rowOf({ look });
    expect(text).toContain("Roughness?");
    expect(text).toMatch(/Press Enter on the row if it is roughness, \w if it is a metallic\./);
    expect(rowOf({ look: { ...look, guesses: [] } }).text).toContain("Which?");
  });

  it("that cannot be read says so, and has nothing to correct", () => {
    const findings = [{ id: "x", grade: "stop", text: "It ends in the middle.", numbers: {} }];
    const { html, text } = rowOf({ look: { readable: false, findings } });
    expect(text).toContain("■ not read");
    expect(text).toContain("It ends in the middle.");
    expect(html).not.toContain("<img");
    expect(tagOf(html, "Set of felt grün_r.png")).toBe("");
  });

  it("names what its channels hold where that is not one gray", () => {
    const look = { kind: "packed", letters: "RGB", reads: { R: "occlusion", G: "roughness" } };
    const { text } = rowOf({ look });
    expect(text).toMatch(/R \w+ ?\w* · G roughness/);
    expect(rowOf().text).not.toContain("L roughness");
  });

  it("left out says how it comes back", () => {
    const { html, text } = rowOf({ row: { isLeftOut: true } });
    expect(text).toContain("Press Delete on the row to take it back.");
    expect(tagOf(html, "Take back felt grün_r.png")).not.toBe("");
    expect(tagOf(rowOf().html, "Leave out felt grün_r.png")).not.toBe("");
  });

  it("of several layers asks whether it is one picture or each of them", () => {
    const choice = (layers: string[], isByLayers = false) => {
      const { html, text } = rowOf({ look: { layers }, row: { isByLayers } });
      return [tagOf(html, "What of felt grün_r.png is taken") !== "", text] as const;
    };
    expect(choice([])[0]).toBe(false);
    expect(choice(["a", "b"])[0]).toBe(true);
    expect(choice(["a", "b"])[1]).toContain("its merged picture");
    expect(choice(["a", "b"], true)[1]).toContain("each of its 2 layers");
    expect(choice(["a"], true)[1]).toContain("its one layer");
  });

  it("whose layers are taken says nothing of the merged picture", () => {
    const findings = [{ id: "unknown-kind", grade: "look", text: "was left out" }];
    const look = {
      kind: "unknown",
      guesses: ["roughness"],
      layers: ["a"],
      because: ["a gray"],
      findings,
    };
    const said = (isByLayers: boolean) => rowOf({ look, row: { isByLayers } }).text;
    for (const words of ["a gray", "was left out", "Roughness?", "Press Enter"]) {
      expect(said(false)).toContain(words);
      expect(said(true)).not.toContain(words);
    }
    expect(said(true)).toContain("By its layers");
  });

  it("that stands for many tiles counts them", () => {
    const tiles = [1002, 1003, 1011].map((tile) => ({ tile, row: {} }));
    expect(rowOf({ place: { tile: 1001 }, tiles }).text).toContain("4 tiles: 1001–1003, 1011");
    const alone = rowOf({ place: { tile: 1001 }, gaps: [1002, 1003] }).text;
    expect(alone).toContain("1 tile: 1001 ◆ no file for 1002–1003");
  });

  it.each([
    ["shape", "Another shape than its set, which is 64 × 32.", "Crop it"],
    ["size", "Another size than its set, which is 64 × 32.", "Resize it"],
  ])("of another %s than its set offers what can be done", (differs, says, offer) => {
    const { text } = rowOf({ place: { misfit: { differs, width: 64, height: 32 } } });
    expect(text).toContain(says);
    expect(text).toContain(offer);
  });
});

describe("a file of a map that another holds too", () => {
  const said = (relation: string, keys = ["roughness"]) =>
    rowOf({ place: { rival: { relation, name: "felt_2.png", keys } } }).text;

  it("that is a copy is told in passing", () => {
    expect(said("copy")).toContain("Its roughness is not taken: felt_2.png holds the same.");
  });

  it("that is stored worse is told with the reason", () => {
    expect(said("worse")).toContain("felt_2.png holds it too and is stored better.");
  });

  it("that shows the whole set is not taken, and may be a set of its own", () => {
    const text = said("preview", ["photo"]);
    expect(text).toContain("Not taken: it shows the material, whose color felt_2.png gives.");
    expect(text).toContain("Make it a set of its own");
    expect(said("copy")).not.toContain("Make it a set of its own");
  });

  it("that shows the whole set is not told to be nothing that is known", () => {
    const findings = [{ id: "unknown-kind", grade: "look", text: "Nothing says what it is." }];
    const look = { kind: "unknown", reads: {}, findings };
    const rival = { relation: "preview", name: "felt_2.png", keys: [] };
    expect(rowOf({ look }).text).toContain("Nothing says what it is.");
    expect(rowOf({ look, place: { rival, reads: {} } }).text).not.toContain("Nothing says");
  });

  it("that gives nothing says nothing of its own faults, unless somebody has to choose", () => {
    const look = { findings: [{ id: "alpha-unclear", grade: "look", text: "its alpha is gray" }] };
    const told = (relation: string, reads: Record<string, string>) =>
      rowOf({ look, place: { rival: { relation, name: "felt_2.png", keys: [] }, reads } }).text;
    expect(told("worse", {})).not.toContain("its alpha is gray");
    expect(told("worse", { A: "height" })).toContain("its alpha is gray");
    expect(told("rival", {})).toContain("its alpha is gray");
  });

  it("that is as good asks, with each of the maps named", () => {
    expect(said("rival", ["roughness", "metallic"])).toContain(
      "felt_2.png holds roughness and metallic too. Say what one of them is, or leave it out.",
    );
  });
});
