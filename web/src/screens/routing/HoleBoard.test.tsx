import { describe, expect, it } from "vitest";
import type { Board, Plan, TextureSet } from "../../api/client";
import { drawn, tagOf } from "../../drawn";
import { HoleBoard, inMb } from "./HoleBoard";

const hole = (letter: string, feed: string, master: string | null, told: object = {}) => ({
  letter,
  feed,
  master,
  meaning: master ?? "one number",
  absent: null,
  ...told,
});
const row = (key: string, title: string, carried = true) => ({
  key,
  title,
  carried,
  plain: `${title}, said plainly.`,
});
const ROWS = [
  row("occlusion", "Occlusion"),
  row("roughness", "Roughness"),
  row("metallic", "Metallic", false),
];

const fileOf = (holes: object[], told: object = {}) => ({
  role: "surface",
  title: "Surface",
  name: [{ part: "set" }, "_orm.png"],
  format: "png",
  depth: 8,
  color: "data",
  required: "",
  holes,
  ...told,
});

type Told = {
  files?: object[];
  set?: object;
  plan?: object;
  green?: "up" | "down" | null;
  pictureOf?: (master: string) => { src: string; from: string } | null;
};

const PACKED = [
  hole("R", "straight", "occlusion"),
  hole("G", "inverted", "roughness"),
  hole("B", "constant", null, { absent: 0.04 }),
];

function board({ files = [fileOf(PACKED)], set, plan, green = null, pictureOf }: Told = {}) {
  return drawn(
    <HoleBoard
      board={{ key: "t", files, rows: ROWS, green } as unknown as Board}
      set={set as TextureSet | undefined}
      plan={plan as Plan | undefined}
      pictureOf={pictureOf ?? null}
      at={{ role: "surface", letter: "R" }}
      onGo={() => {}}
      onRoute={() => {}}
      onTurn={() => {}}
    />,
  );
}

describe("the board of holes", () => {
  it("names each hole by its file, its channel and what it holds", () => {
    const { html } = board();
    expect(tagOf(html, "Surface, R: occlusion")).toContain('aria-pressed="true"');
    expect(tagOf(html, "Surface, G: roughness")).toContain('aria-pressed="false"');
  });

  it("is one stop of the keyboard: the hole in hand", () => {
    const stops = board().html.match(/tabindex="0"/g);
    expect(stops).toHaveLength(1);
    expect(tagOf(board().html, "Surface, R: occlusion")).toContain('tabindex="0"');
  });

  it("offers every hole to every master that does not feed it", () => {
    const offers = board().html.match(/aria-label="Feed Surface, [RGB] from [A-Z]\w+"/g);
    expect(offers).toHaveLength(3 * ROWS.length - 2);
    expect(offers).not.toContain('aria-label="Feed Surface, R from Occlusion"');
  });

  it("has a row for constants only where there is one, with its number", () => {
    expect(board().text).toContain("Constant 0.04");
    expect(board({ files: [fileOf(PACKED.slice(0, 2))] }).text).not.toContain("Constant");
  });

  it("says how a file is stored, and which way its green points", () => {
    expect(board().text).toContain("PNG · 8 bit · data");
    const normal = [hole("R", "straight", "normal")];
    const files = [fileOf(normal, { format: "tga", depth: 16 })];
    expect(board({ files, green: "down" }).text).toContain("TGA · 16 bit · data · Y−");
    expect(board({ files, green: "up" }).text).toContain("data · Y+");
    expect(board({ green: "up" }).text).not.toContain("Y+");
  });

  it("adds what it is planned at, and what that costs", () => {
    const file = { role: "surface", width: 512, height: 256, left_out: null, why: null };
    const plan = { files: [{ ...file, memory_plain: 1.5e6, memory_block: 0.5e6 }] };
    expect(board({ plan }).text).toContain("512 × 256 1.5 MB plain 0.5 MB compressed");
  });

  it("says why a file is left out, or why it is written although it is flat", () => {
    const files = [fileOf(PACKED, { required: "the reader wants three" })];
    const file = { role: "surface", width: 1, height: 1, memory_plain: 0, memory_block: 0 };
    const kept = { files: [{ ...file, left_out: null, why: null }] };
    expect(board({ files, plan: kept }).text).toContain("even flat: the reader wants three");
    const left = { files: [{ ...file, left_out: "nothing", why: "it holds nothing" }] };
    const { text } = board({ files, plan: left });
    expect(text).toContain("left out: it holds nothing");
    expect(text).not.toContain("even flat");
  });

  it("shows the set's own pictures, and a dashed place for what it lacks", () => {
    const masters = [
      { key: "occlusion", origin: "given" },
      { key: "roughness", origin: "absent" },
    ];
    const { html, text } = board({ set: { id: "7", head: 3, masters } });
    expect(html).toContain("/api/sets/7/swatch?head=3&amp;show=occlusion");
    expect(html).not.toContain("show=roughness");
    expect(text).toContain("Occlusion given");
  });

  it("turned round shows what the files that come in hold", () => {
    const pictureOf = (master: string) =>
      master === "roughness" ? { src: "/one", from: "felt_orm.png" } : null;
    const { html, text } = board({ pictureOf });
    expect(tagOf(html, "Surface, R: occlusion")).not.toBe("");
    expect(html).toContain('alt="Roughness from felt_orm.png"');
    expect(text).toContain("Roughness felt_orm.png");
  });
});

it("says memory in millions of bytes", () => {
  expect(inMb(22_369_621)).toBe("22.4 MB");
  expect(inMb(0)).toBe("0.0 MB");
});
