import { describe, expect, it } from "vitest";
import { drawn, tagOf } from "../../drawn";
import type { Filter } from "./sieve";
import { TrayBar } from "./TrayBar";

const OFFERED = [
  ["has:stop", "Has a stop"],
  ["is:stale", "Stale"],
] as unknown as [Filter, string][];

const bar = (count: number, shown: number, filters: string[] = []) =>
  drawn(
    <TrayBar
      count={count}
      shown={shown}
      sought="felt"
      filters={filters as Filter[]}
      offered={OFFERED}
      sort={"name" as never}
      onSort={() => {}}
      onSought={() => {}}
      onFilters={() => {}}
    />,
  );

describe("what narrows the tray down", () => {
  it("counts the sets, and those that pass", () => {
    expect(bar(1, 1).text).toMatch(/^1 set /);
    expect(bar(8, 8).text).toMatch(/^8 sets /);
    expect(bar(8, 3).text).toMatch(/^3 of 8 sets /);
  });

  it("shows each filter where it is taken off, and offers the others", () => {
    const { html, text } = bar(8, 3, ["is:stale"]);
    expect(text).toContain("Stale ×");
    expect(html).toContain('aria-label="Do not filter by: Stale"');
    expect(text).toContain("Filter");
    expect(bar(8, 3, ["is:stale", "has:stop"]).html).not.toContain(">Filter");
  });

  it("says what to do where none passes", () => {
    expect(bar(8, 0).text).toContain("None passes. Take a filter off.");
    expect(bar(8, 1).text).not.toContain("None passes");
  });

  it("keeps the words that are sought", () => {
    expect(tagOf(bar(8, 1).html, "Search the sets")).toContain('value="felt"');
  });
});
