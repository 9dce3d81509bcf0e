import { describe, expect, it } from "vitest";
import { drawn } from "../../drawn";
import { holds, SavedSets } from "./SavedSets";
import type { useSavedSets } from "./useSavedSets";

const one = { file: new File([], "felt.set.zip"), names: ["Felt"] };
const saved = (told: object) =>
  drawn(
    <SavedSets
      saved={{ offered: [one], taken: null, ...told } as ReturnType<typeof useSavedSets>}
    />,
  );

describe("a file of saved sets", () => {
  it("says what it holds, and offers to take it in", () => {
    expect(saved({}).text).toBe("felt.set.zip holds a saved set: Felt Take it in Leave it");
    expect(saved({ offered: [] }).text).toBe("");
  });

  it("names the first few of many", () => {
    expect(holds({ names: ["a", "b", "c"] })).toBe("holds 3 saved sets: a, b, c");
    expect(holds({ names: [..."abcdef"] })).toBe("holds 6 saved sets: a, b, c, d and 2 more");
  });

  it("is busy while it is taken in, and says what went wrong", () => {
    const busy = saved({ taken: one });
    expect(busy.text).toContain("Taking in…");
    expect(busy.html).toContain("disabled");
    expect(saved({ error: new Error("It was cut off.") }).text).toContain("It was cut off.");
  });
});
