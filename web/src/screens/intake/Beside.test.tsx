import { describe, expect, it } from "vitest";
import { drawn } from "../../drawn";
import { Beside } from "./Beside";
import type { Row } from "./rows";

const row = (name: string) =>
  ({ look: { sha256: name, name, findings: [{ text: `${name}: holds text.` }] } }) as Row;
const said = (...names: string[]) => drawn(<Beside rows={names.map(row)} />).text;

describe("files that lie beside the pictures", () => {
  it("are named in one line, and each says why", () => {
    const text = said("license.txt", "felt.mtlx");
    expect(text).toContain("2 files are no pictures and stay out: license.txt, felt.mtlx");
    expect(text).toContain("felt.mtlx: holds text.");
    expect(said("license.txt")).toContain("1 file is no picture and stays out: license.txt");
  });

  it("are counted where there are many", () => {
    expect(said("a", "b", "c", "d", "e", "f")).toContain("stay out: a, b, c, d and 2 more");
  });
});
