import { describe, expect, it } from "vitest";
import type { Worn } from "../../../api/meshes";
import { drawn } from "../../../drawn";
import { UvMenu } from "./UvMenu";

const menu = (triangles: number) =>
  drawn(<UvMenu worn={{ low: { triangles } } as Worn} px={1024} onMade={() => {}} />).text;

describe("making UV", () => {
  it("says beforehand that it will take long, where it will", () => {
    expect(menu(12_000)).not.toContain("takes");
    expect(menu(57_600)).toContain("Quick UV of this mesh takes about 30 seconds.");
    expect(menu(160_000)).toContain("takes about 2 minutes.");
  });
});
