import { describe, expect, it } from "vitest";
import type { MeshLook } from "../../../api/meshes";
import { drawn } from "../../../drawn";
import type { Edit } from "../edit";
import { MeshFindings } from "./MeshFindings";

const found = (id: string, grade: string) => ({ id, grade, text: `a.obj: ${id}.` });
const LOOK = {
  findings: [found("note-one", "note"), found("stop-one", "stop"), found("look-one", "look")],
  fixes: { "look-one": "Apply the scale" },
} as unknown as MeshLook;
const findings = (look: MeshLook | null) =>
  drawn(<MeshFindings edit={{} as Edit} look={look} px={1024} />);

describe("what is found on a mesh", () => {
  it("stands in the order of its weight", () => {
    const { text } = findings(LOOK);
    const at = ["stop-one", "look-one", "note-one"].map((id) => text.indexOf(id));
    expect(at).toEqual([...at].sort((a, b) => a - b));
  });

  it("has its press beside it where one press mends it", () => {
    expect(findings(LOOK).text).toContain("a.obj: look-one. Apply the scale");
    expect(findings(LOOK).html.match(/<button/g)?.length).toBe(1);
  });

  it("is nothing before the mesh was read", () => {
    expect(findings(null).html).toBe("");
  });
});
