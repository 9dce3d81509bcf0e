import { describe, expect, it } from "vitest";
import type { MeshLook } from "../../api/meshes";
import { drawn } from "../../drawn";
import { MeshTable } from "./MeshTable";
import type { MeshRow, useMeshes, Wearings } from "./useMeshes";

const look = (name: string, told: Partial<MeshLook> = {}) =>
  ({
    sha256: name,
    name,
    role: null,
    triangles: 1234,
    materials: [{ name: "brass", triangles: 1234 }],
    values: [],
    findings: [],
    ...told,
  }) as unknown as MeshLook;
const row = (name: string, told: Partial<MeshRow> = {}, seen: Partial<MeshLook> = {}): MeshRow => ({
  look: look(name, seen),
  role: null,
  isLeftOut: false,
  ...told,
});
const wears = (low: string, high: string[] = []) => ({
  set_name: "Pin",
  is_new: true,
  worn: { low: { sha256: low }, high: high.map((sha256) => ({ sha256 })), cage: null },
});

function table(rows: MeshRow[], told: Partial<Wearings> = {}, meshes: object = {}) {
  const known = { rows, isReading: false, problems: [], change: () => {}, ...meshes };
  const wearings = { sets: [], alone: [], error: null, ...told } as unknown as Wearings;
  return drawn(
    <MeshTable meshes={known as unknown as ReturnType<typeof useMeshes>} wearings={wearings} />,
    [[["quantities"], [{ key: "base_color", title: "Base color" }]]],
  );
}

describe("meshes that were dropped", () => {
  it("are nothing where there are none", () => {
    expect(table([]).html).toBe("");
  });

  it("say how many triangles and which materials they have, and which set they go to", () => {
    const { text } = table([row("pin_low.obj"), row("pin_high.obj")], {
      sets: [wears("pin_low.obj", ["pin_high.obj"])] as never,
    });
    expect(text).toContain("Meshes, 2");
    expect(text).toContain("1,234 brass Pin (new)");
    expect(text.match(/Pin \(new\)/g)?.length).toBe(2);
  });

  it("name a material that has no name", () => {
    const bare = row("a.obj", {}, { materials: [{ name: "", triangles: 1 }] } as never);
    expect(table([bare]).text).toContain("unnamed");
  });

  it("say what a material has one value for, and of several how many", () => {
    const brass = {
      material: "brass",
      called: "brass",
      values: { metallic: [1], base_color: [1, 0.5, 0] },
    };
    const one = row("pin.gltf", {}, { values: [brass] });
    expect(table([one]).text).toContain("metallic 1.00, base color #ffbc00");
    const two = row("pin.gltf", {}, { values: [brass, { ...brass, material: "" }] });
    expect(table([two]).text).toContain("values of 2 materials");
  });

  it("say why one goes to no set, or that it was left out", () => {
    const alone = { name: "a_high.obj", why: "there is no low mesh called a" };
    expect(table([row("a_high.obj")], { alone: [alone] as never }).text).toContain(
      "◆ to no set: there is no low mesh called a",
    );
    expect(table([row("a.obj", { isLeftOut: true })]).text).toContain("left out");
  });

  it("count what was found by its grade, and say in full what stops", () => {
    const findings = [
      { id: "a", grade: "stop", text: "a.obj: it has no UV." },
      { id: "b", grade: "note", text: "a.obj: y is up." },
    ];
    const { text } = table([row("a.obj", {}, { findings } as never)]);
    expect(text).toContain("1 stop 1 note");
    expect(text).toContain("a.obj: it has no UV.");
    expect(text).not.toContain("y is up"); // it is there on asking
  });

  it("say what could not be read, beside what is still being read", () => {
    const { html, text } = table(
      [],
      {},
      { isReading: true, problems: ["torn.obj: line 2 names no corner."] },
    );
    expect(text).toBe("Meshes Reading meshes… ■ torn.obj: line 2 names no corner.");
    expect(html).toContain('role="alert"');
  });
});
