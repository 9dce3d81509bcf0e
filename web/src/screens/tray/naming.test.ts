import { describe, expect, it } from "vitest";
import { AS_IT_IS, refusedNames, renamed } from "./naming";

describe("names of many sets", () => {
  it("change by what is found, and by what stands before and after", () => {
    expect(renamed("felt old felt", { ...AS_IT_IS, find: "felt", put: "Étoffe" })).toBe(
      "Étoffe old Étoffe",
    );
    expect(renamed("felt", { ...AS_IT_IS, before: "M_", after: "_v2" })).toBe("M_felt_v2");
    expect(renamed("felt", AS_IT_IS)).toBe("felt");
  });
  it("are refused where one would be empty, or there twice", () => {
    expect(refusedNames(["a", "b"], ["c"])).toBeNull();
    expect(refusedNames(["a", "A"], [])).toContain("twice");
    expect(refusedNames(["c"], ["C"])).toContain("twice");
    expect(refusedNames([""], [])).toContain("empty");
  });
});
