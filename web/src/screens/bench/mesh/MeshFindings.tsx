import { useMutation } from "@tanstack/react-query";
import { type MeshLook, type MeshRef, mendedMesh } from "../../../api/meshes";
import { refOf } from "../../../line/wearing";
import { FindingLine, FixButton, GRADE_ORDER, Problem } from "../../../parts/grades";
import type { Edit } from "../edit";

const OF_BOTH = ["mesh-polygons"]; // the cage has to have the low mesh's corners

type MeshFindingsProps = { edit: Edit; look: MeshLook | null; px: number };

/**
 * What is found on the low mesh, and what one press does about it: another mesh beside the one that
 * came.
 */
export function MeshFindings({ edit, look, px }: MeshFindingsProps) {
  const mend = useMutation({
    mutationFn: async (finding: string) => {
      const { worn } = edit.recipe;
      if (!worn) return;
      const made = async (mesh: MeshRef) => refOf(await mendedMesh(mesh, finding, px));
      const cage = worn.cage && OF_BOTH.includes(finding) ? await made(worn.cage) : worn.cage;
      edit.keep({ ...edit.recipe, worn: { ...worn, low: await made(worn.low), cage } });
    },
  });
  if (!look) return null;
  return (
    <>
      {GRADE_ORDER.flatMap((grade) =>
        look.findings
          .filter((found) => found.grade === grade)
          .map((found) => (
            <div key={found.text} className="flex flex-wrap items-center gap-x-2 gap-y-1">
              <FindingLine finding={found} />
              <FixButton
                title={look.fixes[found.id] ?? null}
                disabled={mend.isPending}
                onFix={() => mend.mutate(found.id)}
              />
            </div>
          )),
      )}
      <Problem error={mend.error} />
    </>
  );
}
