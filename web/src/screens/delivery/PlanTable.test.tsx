import { describe, expect, it, vi } from "vitest";
import type { Plan, Delivery as Run } from "../../api/client";
import { drawn, tagOf } from "../../drawn";
import { type Chosen, NOTHING } from "./choice";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { PlanTable } = await import("./PlanTable");

type File = Plan["files"][number];

const file = (name: string, told: Partial<File> = {}): File =>
  ({
    role: name,
    name,
    kind: "image",
    title: name,
    tile: null,
    layer: null,
    left_out: null,
    why: null,
    disk: null,
    answer: null,
    green: null,
    depth: 8,
    color: "data",
    width: 64,
    height: 32,
    channels: [],
    guesses: [],
    ...told,
  }) as unknown as File;

function table(files: File[], told: { chosen?: Partial<Chosen>; run?: Run; gone?: object } = {}) {
  const plan = {
    set: "felt",
    target: "gltf",
    target_title: "Open scene",
    findings: [],
    files,
    gone: told.gone ?? {},
    place: null,
  } as unknown as Plan;
  return drawn(
    <PlanTable
      project="p"
      plan={plan}
      isFirst={false}
      setId="1"
      run={told.run}
      benchAddress={null}
      chosen={{ ...NOTHING, ...told.chosen }}
      onChange={() => {}}
      onDerive={() => {}}
    />,
  );
}

const running = (state: Run["state"], rows: Record<string, string> = {}) =>
  ({ id: "r", state, rows, sent: [] }) as unknown as Run;

describe("one set for one target", () => {
  it("says of each file what it holds, how large and how deep it is, and where green points", () => {
    const channels = ["R", "G", "B", "A"].map((letter, k) => ({
      letter,
      title: k < 3 ? "Normal" : "Opacity",
      content: "map",
    }));
    const { text } = table([file("felt_n.png", { channels, green: "down", depth: 16 } as never)]);
    expect(text).toContain("felt → Open scene");
    expect(text).toContain("R G B Normal · A Opacity 64 × 32 16 bit data Y−");
  });

  it.each([
    [{ disk: "new" }, "new"],
    [{ disk: "changed" }, "changed"],
    [{ disk: "same" }, "same"],
    [{ disk: null }, "will be written"],
    [{ left_out: "waits", why: "waits for base color" }, "■ waits for base color"],
    [{ left_out: "lacking", why: "the set has no height" }, "left out: the set has no height"],
    [{ left_out: "unwanted", why: "left out by hand" }, "left out by hand"],
  ])("says how a file stands: %j", (told, said) => {
    expect(table([file("a.png", told as never)]).text).toContain(said);
  });

  it("asks about what somebody else changed, and shows the answer", () => {
    const { html, text } = table([file("a.png", { disk: "by-hand", answer: "beside" } as never)]);
    expect(text).toContain("changed by somebody else Keep it Write beside it Replace, keep a copy");
    const pressed = [...html.matchAll(/aria-pressed="true"[^>]*>([^<]*)/g)].map(
      ([, title]) => title,
    );
    expect(pressed).toEqual(["Write beside it"]);
  });

  it("says what became of a file, and that others wait, while it is delivered", () => {
    const run = running("running", { "felt/gltf/a.png": "written" });
    const { html, text } = table([file("a.png"), file("b.png")], { run });
    expect(text).toContain("✓ written");
    expect(text).toContain("waits");
    expect(tagOf(html, "Write a.png")).toContain("disabled");
  });

  it("ticks what will be written, and nothing that was left out or cannot be", () => {
    const { html } = table(
      [file("a.png"), file("b.png"), file("c.png", { left_out: "lacking" } as never)],
      {
        chosen: { unwanted: [{ set: "1", target: "gltf", role: "b.png" }] },
      },
    );
    expect(tagOf(html, "Write a.png")).toContain("checked");
    expect(tagOf(html, "Write b.png")).not.toContain("checked");
    expect(tagOf(html, "Write c.png")).toContain("disabled");
    expect(tagOf(html, "Every file of felt for Open scene")).not.toContain("checked");
  });

  it("names what a channel is filled with, and offers to derive it where that is possible", () => {
    const fill = {
      letter: "B",
      title: "Metallic",
      content: "fill",
      value: 0,
      why: "as none is there",
    };
    const one = (derive: string | null) =>
      table([file("a.png", { channels: [{ ...fill, derive }] } as never)]).text;
    expect(one("op:metallic")).toContain("B: 0 everywhere, as none is there. Derive it");
    expect(one(null)).not.toContain("Derive it");
  });

  it("says what a map is guessed from, but not of a file that is left out", () => {
    const guesses = ["Roughness: guessed from the base color"];
    expect(table([file("a.png", { guesses })]).text).toContain(guesses[0]);
    expect(table([file("a.png", { guesses, left_out: "unwanted" })]).text).not.toContain("guessed");
  });

  it("stands tile by tile, and last what is for all of them", () => {
    const { text, html } = table([
      file("a.1001.png", { tile: 1001, pattern: "a.<UDIM>.png" } as never),
      file("a.1002.png", { tile: 1002, pattern: "a.<UDIM>.png" } as never),
      file("felt.usda", { kind: "document", title: "USD" } as never),
    ]);
    const heads = ["Tile 1001", "Tile 1002", "For all tiles"].map((head) => text.indexOf(head));
    expect(heads).toEqual([...heads].sort((a, b) => a - b));
    expect(heads[0]).toBeGreaterThan(0);
    expect(html).toContain("of every tile");
  });

  it("leaves files of before lying unless they are ticked", () => {
    const gone = { "old.png": {}, "older.png": {} };
    const { html, text } = table([file("a.png")], {
      gone,
      chosen: { remove: ["felt/gltf/older.png"] },
    });
    expect(text).toContain("left lying unless you tick it");
    expect(tagOf(html, "Remove old.png")).not.toContain("checked");
    expect(tagOf(html, "Remove older.png")).toContain("checked");
  });

  it("offers the proof once it is delivered", () => {
    const done = { ...running("done"), sent: [{ set: "felt", target: "gltf" }] } as unknown as Run;
    expect(table([file("a.png")], { run: done }).text).toContain("Proof");
    expect(table([file("a.png")], { run: running("done") }).text).not.toContain("Proof");
  });
});
