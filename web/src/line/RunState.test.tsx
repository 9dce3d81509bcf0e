import { describe, expect, it } from "vitest";
import type { Delivery as Run } from "../api/client";
import { drawn, tagOf } from "../drawn";
import { RunState } from "./RunState";

const stop = { mutate: () => {} } as never;
const run = (told: Partial<Run>) =>
  ({
    id: "7",
    problem: null,
    done_units: 0,
    total_units: 0,
    sent: [],
    folder: "felt",
    ...told,
  }) as Run;
const state = (told: Partial<Run>) => drawn(<RunState run={run(told)} stop={stop} />);

describe("a delivery in hand", () => {
  it("says how far it is, and can be stopped", () => {
    const { html, text } = state({ state: "running", done_units: 3, total_units: 12 });
    expect(text).toBe("25 % Stop");
    expect(tagOf(html, "Progress of the delivery")).toContain('value="3"');
  });

  it("has no end yet before its work is counted", () => {
    expect(state({ state: "waiting" }).text).toBe("0 % Stop");
  });

  it("says where it was written to, and gives its zip and its path", () => {
    const { html, text } = state({ state: "done", sent: [{ place: null }] as never });
    expect(text).toBe("Written and read back equal, in deliveries / felt Download zip Copy path");
    expect(html).toContain('href="/api/deliveries/7/zip"');
  });

  it("says what was wrong, or that it was stopped, and offers nothing", () => {
    const failed = state({
      state: "failed",
      problem: "The disk is full. Make room, and deliver again.",
    });
    expect(failed.text).toBe("The disk is full. Make room, and deliver again.");
    expect(failed.html).toContain("text-stop");
    expect(state({ state: "cancelled" }).text).toBe("Stopped; nothing was left behind.");
  });

  it("is nothing where there is none", () => {
    expect(drawn(<RunState run={undefined} stop={stop} />).html).toBe("");
  });
});
