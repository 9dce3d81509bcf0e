import { describe, expect, it } from "vitest";
import type { Finding } from "../api/client";
import { drawn } from "../drawn";
import { FindingLine, FixButton, GradeCount, Problem } from "./grades";

const finding = { id: "x", grade: "look", text: "Felt: too small & too dark." } as Finding;

describe("grades", () => {
  it.each([
    ["stop", 1, "1 stop"],
    ["stop", 2, "2 stops"],
    ["look", 1, "1 check"],
    ["note", 3, "3 notes"],
  ] as const)("count %s %d in words", (grade, count, said) => {
    expect(drawn(<GradeCount grade={grade} count={count} />).text).toBe(said);
  });

  it("are told by a shape with a name, not by color alone", () => {
    const looks = (["stop", "look", "note"] as const).map(
      (grade) => drawn(<GradeCount grade={grade} count={1} />).html.match(/<i[^>]*>/)?.[0] ?? "",
    );
    expect(looks.map((look) => look.match(/aria-label="(\w+)"/)?.[1])).toEqual([
      "stop",
      "check",
      "note",
    ]);
    expect(looks[1]).toContain("rotate-45");
    expect(looks[2]).toContain("rounded-full");
  });

  it("stand before their sentence", () => {
    expect(drawn(<FindingLine finding={finding} />).text).toBe("Felt: too small & too dark.");
  });
});

describe("a figure in a finding", () => {
  it.each([
    ["clipped over 2 % of it", "clipped over 2\u00a0% of it"],
    ["2048 × 1024 px instead", "2048\u00a0× 1024\u00a0px instead"],
    ["of 3 maps, 12 smooth ones", "of 3 maps, 12 smooth ones"],
    ["1.5 m is 9.4 MB", "1.5\u00a0m is 9.4\u00a0MB"],
  ])("keeps its unit: %s", (text, said) => {
    expect(drawn(<FindingLine finding={{ ...finding, text }} />).html).toContain(said);
  });
});

describe("what went wrong", () => {
  it("is read out, and nothing where nothing did", () => {
    expect(drawn(<Problem error={new Error("No answer.")} />).html).toContain('role="alert"');
    expect(drawn(<Problem error={null} />).html).toBe("");
  });
});

describe("what one press does about a finding", () => {
  const button = (title: string | null, disabled = false) =>
    drawn(<FixButton title={title} disabled={disabled} onFix={() => {}} />).html;

  it("is offered where there is such a press, and waits while one is under way", () => {
    expect(button("Turn it over")).toContain("Turn it over");
    expect(button(null)).toBe("");
    expect(button("Turn it over", true)).toContain("disabled");
  });
});
