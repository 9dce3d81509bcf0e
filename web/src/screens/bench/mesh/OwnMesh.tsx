import { useState } from "react";
import type { TextureSet } from "../../../api/client";
import { type MeshLook, readMeshes } from "../../../api/meshes";
import { BESIDE_ENDINGS, MESH_ENDINGS } from "../../../api/meshNames";
import { materialOf } from "../../../line/wearing";
import { ChooseFiles } from "../../../parts/ChooseFiles";
import { errorOf } from "../../../parts/failures";
import { FindingLine } from "../../../parts/grades";
import { Hint } from "../../../parts/Hint";
import { Line } from "../../../parts/Line";
import { sure } from "../../../parts/sure";
import type { OwnMesh as Mesh } from "../../../view3d/names";
import { useView } from "../view";
import { MaterialChoice } from "./MaterialChoice";
import { setOf, useSetsHere } from "./useBeside";

const LOADING = () => import("../../../view3d/mesh");
const GRADES = ["stop", "look", "note"] as const;

/** A mesh of the person's own as the test body, with what was found on it. */
export function OwnMesh({ set }: { set: TextureSet }) {
  const mesh = useView((view) => view.mesh);
  const marks = useView((view) => view.meshMarks);
  const hasBorders = marks.includes("islands");
  const change = useView((view) => view.set);
  const [problem, setProblem] = useState<string | null>(null);
  const [isReading, setReading] = useState(false);
  const px = Math.max(set.recipe.facts.width, set.recipe.facts.height);
  const put = async (work: () => Promise<[MeshLook, number]>) => {
    setReading(true);
    setProblem(null);
    try {
      const [look, material] = await work();
      const { hasBeside } = useView.getState();
      change({ mesh: await (await LOADING()).meshOf(look, material, hasBeside), body: "own" });
    } catch (problem) {
      setProblem(errorOf(problem).message);
    }
    setReading(false);
  };
  const handleFiles = (chosen: FileList) =>
    put(async () => {
      const { looks, wrong } = await readMeshes([...chosen], px);
      if (!looks.length) throw new Error(wrong[0] ?? "Choose a mesh with what lies beside it.");
      return [looks[0], materialOf(looks[0], set.name)];
    });
  const handleMesh = async (way: "turned" | "fitted") => {
    const made = await LOADING();
    change({ mesh: made[way](sure(mesh, "the mesh")) });
  };
  return (
    <>
      <Line label="Own mesh">
        <ChooseFiles
          label="Own mesh: OBJ, PLY, STL, GLB or glTF"
          text={isReading ? "Reading…" : (mesh?.look.name ?? "OBJ, PLY, STL, GLB")}
          accept={`${MESH_ENDINGS},${BESIDE_ENDINGS}`}
          isMany
          className="button min-w-0 grow truncate"
          disabled={isReading}
          onChoose={(files) => void handleFiles(files)}
        />
      </Line>
      {mesh && !mesh.isWorn && (
        <MaterialChoice
          look={mesh.look}
          material={mesh.material}
          onChange={(k) => void put(async () => [mesh.look, k])}
        />
      )}
      {mesh && (
        <OthersShown
          mesh={mesh}
          onChange={(hasBeside) => {
            change({ hasBeside });
            if (!mesh.isWorn) void put(async () => [mesh.look, mesh.material]);
          }}
        />
      )}
      {mesh && !mesh.isWorn && (
        <>
          <Line label="Islands">
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                aria-label="Borders of islands over the flat picture"
                checked={hasBorders}
                disabled={!mesh.look.has_uv}
                onChange={() => change({ meshMarks: hasBorders ? [] : ["islands"] })}
              />
              over the flat picture
            </label>
          </Line>
          <div className="flex justify-end gap-2">
            <Hint says="What was outside is inside">
              <button type="button" className="button" onClick={() => void handleMesh("turned")}>
                Flip faces
              </button>
            </Hint>
            <Hint says="The map fills one tile exactly">
              <button type="button" className="button" onClick={() => void handleMesh("fitted")}>
                Fit the map
              </button>
            </Hint>
          </div>
          <p className="text-ink2">
            {mesh.triangles.toLocaleString("en")} triangles
            {mesh.hasMap ? "" : ". The map is laid on from the front"}.
          </p>
          {GRADES.flatMap((grade) =>
            mesh.look.findings
              .filter((found) => found.grade === grade)
              .map((found) => <FindingLine key={found.text} finding={found} />),
          )}
        </>
      )}
      {problem && <p className="text-stop">■ {problem}</p>}
    </>
  );
}

type OthersShownProps = { mesh: Mesh; onChange: (isShown: boolean) => void };

/** Whether the mesh's other materials are shown with it; nothing to ask where there is one. */
function OthersShown({ mesh, onChange }: OthersShownProps) {
  const sets = useSetsHere();
  const { look, material, isWhole } = mesh;
  const lacking = look.materials.flatMap(({ name, triangles }, k) =>
    k === material || !triangles || setOf(look, k, sets) ? [] : [name || `Material ${k + 1}`],
  );
  if (!look.materials.some(({ triangles }, k) => triangles > 0 && k !== material)) return null;
  return (
    <>
      <Line label="Others" says="What of the mesh wears other materials than this set.">
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            aria-label="Other materials of the mesh"
            checked={isWhole}
            onChange={(e) => onChange(e.target.checked)}
          />
          in their own sets
        </label>
      </Line>
      {isWhole && lacking.length > 0 && (
        <p className="text-ink2">Gray, as no set is called so: {lacking.join(", ")}.</p>
      )}
    </>
  );
}
