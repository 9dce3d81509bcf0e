import { describe, expect, it, vi } from "vitest";
import type { Plan } from "../../api/client";
import { drawn } from "../../drawn";

vi.stubGlobal("localStorage", { getItem: () => null }); // the bench's look is kept there
const { Proof } = await import("./Proof");

const channel = (letter: string, title: string, component = "v") => ({ letter, title, component });
const file = (role: string, told: object = {}) => ({
  role,
  title: role,
  kind: "image",
  left_out: null,
  tile: null,
  channels: [channel("R", "Occlusion"), channel("G", "Roughness")],
  ...told,
});
const measured = (letter: string, told: object = {}) => ({
  letter,
  largest: 0.00196,
  mean: 0.00098,
  steps: 0.5,
  is_right: true,
  ...told,
});

type Read = { channels: object[]; faults?: string[] };

function proof(files: object[], read: Record<string, Read>, tile?: number) {
  const query = { set: "felt", target: "t", ...(tile === undefined ? {} : { tile }) };
  const plan = { set: "felt", target: "t", target_title: "Engine", files } as unknown as Plan;
  return drawn(
    <Proof deliveryId="d" plan={plan} benchAddress={null} />,
    Object.entries(read).map(([role, { channels, faults = [] }]) => [
      ["proof", "d", query, role],
      { channels, faults },
    ]),
  );
}

describe("files read back by their target's stand-in", () => {
  it("are told file by file while they are read", () => {
    const { text } = proof([file("orm"), file("color")], { orm: { channels: [measured("R")] } });
    expect(text).toContain("Reading back file 2 of 2…");
  });

  it("that hold what the masters say are said to in one line, with every number", () => {
    const { text } = proof([file("orm")], { orm: { channels: [measured("R"), measured("G")] } });
    expect(text).toContain("✓ All 2 channels hold what the masters say");
    expect(text).toContain("orm R Occlusion 0.00196 0.00098 0.50 G Roughness");
    const one = proof([file("orm")], { orm: { channels: [measured("R")] } });
    expect(one.text).toContain("✓ The one channel holds what the masters say");
  });

  it("that do not are counted, and each is marked", () => {
    const off = measured("G", { is_right: false, steps: 12.25, largest: 0.048 });
    const { text } = proof([file("orm")], { orm: { channels: [measured("R"), off] } });
    expect(text).toContain("■ 1 of 2 channels are off");
    expect(text).toContain("■ 12.25");
    expect(text).not.toContain("✓");
  });

  it("that are stored in another way than they should be say how", () => {
    const faults = ["It is tagged as color, and holds data."];
    const { text } = proof([file("orm")], { orm: { channels: [measured("R")], faults } });
    expect(text).toContain("■ It is tagged as color, and holds data.");
    expect(text).not.toContain("✓");
  });

  it("of a set in tiles are proved tile by tile, and what all tiles share with each", () => {
    const files = [file("orm", { tile: 1001 }), file("all"), file("orm", { tile: 1002 })];
    const read = { orm: { channels: [measured("R")] }, all: { channels: [measured("R")] } };
    const { html, text } = proof(files, read, 1001);
    expect(html).toContain('aria-label="Tile that is proved"');
    expect(text).toContain("Tile 1001");
    expect(text).toContain("✓ All 2 channels hold");
  });

  it("leave out what was not written, and documents", () => {
    const files = [
      file("orm"),
      file("color", { left_out: "unwanted" }),
      file("doc", { kind: "document" }),
    ];
    const { text } = proof(files, { orm: { channels: [measured("R")] } });
    expect(text).toContain("✓ The one channel holds");
  });
});
