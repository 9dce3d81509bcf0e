import type { MeshLook } from "../../../api/meshes";
import { Choice } from "../../../parts/Choice";
import { Line } from "../../../parts/Line";

type MaterialChoiceProps = {
  look: MeshLook | null;
  material: number;
  onChange: (material: number, called: string) => void;
};

/** Which of a mesh's materials the set is; nothing to choose where there is one. */
export function MaterialChoice({ look, material, onChange }: MaterialChoiceProps) {
  const worn = (look?.materials ?? [])
    .map(({ name, triangles }, k) => ({ name, triangles, k }))
    .filter(({ triangles, k }) => triangles > 0 || k === material); // others are high parts' alone
  if (!look || worn.length < 2) return null;
  return (
    <Line
      label="Material"
      says="Which of the mesh's materials this set is; the others are other sets."
    >
      <Choice
        label="Which material this set is"
        className="min-w-0 grow"
        options={worn.map(({ name, k }) => [String(k), name || `Material ${k + 1}`] as const)}
        value={String(material)}
        onChange={(k) => onChange(Number(k), look.materials[Number(k)].name)}
      />
    </Line>
  );
}
