import { describe, expect, it } from "vitest";
import type { Board, Plan, Target, TextureSet } from "../../api/client";
import { drawn, tagOf } from "../../drawn";
import { FORMATS } from "../../samples";
import { HoleDetail } from "./HoleDetail";

const QUANTITIES = [
  { key: "roughness", title: "Roughness", channels: 1, components: ["v"] },
  { key: "normal", title: "Normal", channels: 3, components: ["x", "y", "z"] },
];
const CHANNEL = {
  quantity: "roughness",
  component: "v",
  invert: false,
  range: [0, 1],
  fill: null,
  constant: null,
};

type Told = {
  channel?: object;
  hole?: object;
  origin?: string;
  tiles?: number[];
  plan?: object;
  difference?: object;
  hasSet?: boolean;
};

function detail(told: Told = {}) {
  const { channel, hole, origin = "given", tiles = [], plan, difference, hasSet = true } = told;
  const table = {
    role: "orm",
    title: "Surface",
    name: [{ part: "set" }],
    word: "orm",
    format: "png",
    depth: 8,
    sample: "uint",
    color: "data",
    channels: { G: { ...CHANNEL, ...channel } },
  };
  const holes = [{ letter: "G", meaning: "roughness as it is", master: "roughness", ...hole }];
  const board = {
    key: "t",
    files: [{ role: "orm", title: "Surface", use: "shader's surface slot", holes }],
    rows: [{ key: "roughness", title: "Roughness" }],
  };
  const set = { id: "1", head: 3, tiles, masters: [{ key: "roughness", origin }] };
  const query = { head: 3, target: "t", role: "orm", letter: "G" };
  return drawn(
    <HoleDetail
      project="p"
      sets={[]}
      board={board as unknown as Board}
      target={{ key: "t", version: "2", files: [table] } as unknown as Target}
      set={hasSet ? (set as unknown as TextureSet) : undefined}
      plan={plan as Plan | undefined}
      at={{ role: "orm", letter: "G" }}
      onChange={() => {}}
    />,
    [
      [["quantities"], QUANTITIES],
      [["formats"], FORMATS],
      ...(difference ? [[["difference", "1", query, "2"], difference] as [unknown[], object]] : []),
    ],
  );
}

describe("one hole of the board", () => {
  it("shows the master beside the channel as the target gets it", () => {
    const { html, text } = detail();
    expect(text).toContain("Channel G: roughness as it is of Surface");
    expect(html).toContain("/api/sets/1/swatch?head=3&amp;show=roughness");
    expect(html).toContain("letter=G&amp;version=2");
    expect(text).toContain("Goes to the shader's surface slot.");
  });

  it("says where a master is not in the set, or none is meant", () => {
    expect(detail({ origin: "absent" }).text).toContain("not in this set Master: Roughness");
    expect(detail({ hole: { master: null } }).text).toContain("no master Constant");
  });

  it("tells what storing costs in numbers and in steps of the file", () => {
    expect(detail().text).toContain("Comparing…");
    const exact = detail({ difference: { largest: 0, mean: 0, step: 1 / 255 } });
    expect(exact.text).toContain("Identical to its source: the file holds it exactly.");
    const off = detail({ difference: { largest: 0.5 / 255, mean: 0.001, step: 1 / 255 } }).text;
    expect(off).toContain("at most 0.0020, on average 0.0010.");
    expect(off).toContain("0.50 of one step of the file");
    expect(detail({ difference: { largest: null } }).text).not.toContain("Difference");
  });

  it("names a fill as one, with its reason", () => {
    const channels = [{ letter: "G", content: "fill", value: 0.5, why: "as the set has none" }];
    const file = { role: "orm", tile: null, left_out: null, name: "felt_orm.png", channels };
    const { text } = detail({ plan: { files: [file] } });
    expect(text).toContain("A fill: 0.5 everywhere, as the set has none.");
    expect(text).toContain("Names for this set felt_orm.png");
  });

  it("shows nothing of a file that is not written, and says why", () => {
    const channels = [
      { letter: "G", content: "fill", value: 0.5, why: "the set has no roughness" },
    ];
    const file = {
      role: "orm",
      tile: null,
      left_out: "waits",
      why: "waits for roughness",
      channels,
    };
    const { text } = detail({ plan: { files: [file] } });
    expect(text).toContain("Not written: waits for roughness.");
    expect(text).not.toContain("A fill");
    expect(text).toContain("not written Channel: G");
  });

  it("asks for the tile of a set in tiles", () => {
    const { html } = detail({ tiles: [1001, 1002] });
    expect(html).toContain("&amp;tile=1001");
    expect(tagOf(html, "Tile")).toContain('data-key="1001"');
    expect(tagOf(detail().html, "Tile")).toBe("");
  });

  it("has what feeds it, turned over or within a range, and what stands for it without", () => {
    const { html, text } = detail({ channel: { invert: true, range: [0.25, 0.75], fill: 0.3 } });
    expect(tagOf(html, "Inverted")).toContain("checked");
    expect(tagOf(html, "Stored from")).toContain('value="0.25"');
    expect(tagOf(html, "Stored to")).toContain('value="0.75"');
    expect(text).toContain("a number");
    expect(tagOf(html, "Fill")).toContain('value="0.3"');
    expect(tagOf(detail().html, "Fill")).toBe("");
    expect(detail().text).toContain("its usual value");
  });

  it("asks which part of a vector it holds, and of one number nothing but that", () => {
    const normal = detail({ channel: { quantity: "normal", component: "y" } });
    expect(tagOf(normal.html, "Part")).toContain('data-key="y"');
    expect(tagOf(detail().html, "Part")).toBe("");
    const one = detail({ channel: { quantity: null, constant: 0.04 }, hole: { master: null } });
    expect(tagOf(one.html, "Constant")).toContain('value="0.04"');
    expect(tagOf(one.html, "Inverted")).toBe("");
  });

  it("names a gray of one's own by its own name", () => {
    expect(detail({ channel: { quantity: "own_wetness" } }).text).toContain("wetness");
  });

  it("is worked on without any set", () => {
    const { html, text } = detail({ hasSet: false });
    expect(text).toContain("Fed from");
    expect(html).not.toContain("<img");
  });
});
