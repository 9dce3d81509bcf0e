import { describe, expect, it } from "vitest";
import type { Plan, TextureSet } from "../../api/client";
import { drawn } from "../../drawn";
import { type Chosen, NOTHING } from "./choice";
import { DeliveryHead } from "./DeliveryHead";

const file = (name: string, told: object = {}) => ({
  name,
  left_out: null,
  why: null,
  disk: "new",
  answer: null,
  memory_plain: 2e6,
  ...told,
});
const set = {
  id: "1",
  name: "felt",
  recipe: { facts: { width: 1024, height: 512 } },
} as unknown as TextureSet;

function head(
  files: object[],
  chosen: Partial<Chosen> = {},
  told: object = {},
  canGo = true,
  isBusy = false,
) {
  const plan = {
    set: "felt",
    target: "gltf",
    files,
    seconds: 0,
    folder: null,
    place: null,
    ...told,
  };
  return drawn(
    <DeliveryHead
      project="p"
      sets={[set]}
      shown={files.length ? [plan as unknown as Plan] : []}
      chosen={{ ...NOTHING, sets: ["1"], ...chosen }}
      canGo={canGo}
      isBusy={isBusy}
      onDeliver={() => {}}
      onChange={() => {}}
    />,
  );
}

describe("the head of a delivery", () => {
  it("asks for what is not chosen yet", () => {
    expect(head([], { sets: [] }).text).toBe("Choose sets and targets");
    expect(head([]).text).toBe("Choose a target");
    expect(head([], { sets: [], targets: ["gltf"] }).text).toBe("Choose a set");
  });

  it("says that it works out the files, and of hundreds of sets also while it starts", () => {
    const many = { sets: Array.from({ length: 40 }, (_, k) => `${k}`), targets: ["gltf"] };
    expect(head([], { targets: ["gltf"] }, {}, false, true).text).toBe(
      "Working out the files of 1 set for 1 target…",
    );
    expect(head([file("a.png")], many, {}, false, true).text).toContain("files of 40 sets");
    expect(head([file("a.png")], { targets: ["gltf"] }, {}, false, true).text).not.toContain("…");
  });

  it("counts what one press writes", () => {
    expect(head([file("a.png")]).text).toContain("Deliver 1 file, up to 2.0 MB");
    expect(head([file("a.png"), file("b.png")]).text).toContain("Deliver 2 files, up to 4.0 MB");
    expect(head([file("a.png", { disk: "same" })]).text).toContain("Nothing to write");
  });

  it("says what is replaced, left, asked about, and waits", () => {
    const { text } = head([
      file("a.png", { disk: "changed" }),
      file("b.png", { disk: "same" }),
      file("c.png", { disk: "foreign" }),
      file("d.png", { left_out: "waits", why: "waits for base color" }),
    ]);
    expect(text).toContain("1 replaced in place");
    expect(text).toContain("1 left as they lie");
    expect(text).toContain("1 place holds a file that somebody else changed: say what to do");
    expect(text).toContain("1 file waits for base color");
  });

  it("says beforehand that it will take long", () => {
    expect(head([file("a.png")], {}, { seconds: 41 }).text).toContain("takes about 40 seconds");
    expect(head([file("a.png")], {}, { seconds: 4 }).text).not.toContain("takes about");
  });

  it("counts what is removed where nothing is written", () => {
    const { text } = head([file("a.png", { disk: "same" })], { remove: ["felt/gltf/old.png"] });
    expect(text).toContain("Remove 1 of our files");
  });

  it("cannot be pressed while it may not go", () => {
    expect(head([file("a.png")], {}, {}, false).html).toMatch(
      /<button[^>]*disabled=""[^>]*>Deliver/,
    );
  });
});
