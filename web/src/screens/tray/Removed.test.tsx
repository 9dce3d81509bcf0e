import { describe, expect, it } from "vitest";
import { drawn } from "../../drawn";
import { Removed } from "./Removed";

const removed = (...names: string[]) =>
  drawn(<Removed project="p" count={2} />, [
    [
      ["removed", "p", 2],
      names.map((name) => ({ id: name, name, removed: "2026-11-27T10:00:00Z" })),
    ],
  ]);

describe("sets that were taken off the tray", () => {
  it("are counted, and each can be put back by its name", () => {
    const { html, text } = removed("felt", "Étoffe");
    expect(text).toContain("Taken off the tray: 2 sets");
    expect(html).toContain('aria-label="Put back Étoffe"');
    expect(removed("felt").text).toContain("Taken off the tray: 1 set felt");
  });

  it("are nothing where none was", () => {
    expect(removed().html).toBe("");
  });
});
