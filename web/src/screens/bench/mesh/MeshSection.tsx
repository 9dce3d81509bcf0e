import type { TextureSet } from "../../../api/client";
import { isBaking, useBake, useMeshLook } from "../../../api/meshes";
import { Problem } from "../../../parts/grades";
import type { Edit } from "../edit";
import { Section } from "../Section";
import { BakeRun } from "./BakeRun";
import { BakeSettings } from "./BakeSettings";
import { MeshFiles } from "./MeshFiles";
import { MeshFindings } from "./MeshFindings";
import { MeshMarks } from "./MeshMarks";

type MeshSectionProps = {
  set: TextureSet;
  project: string;
  edit: Edit;
  isOpen: boolean;
  onOpen: () => void;
};

/** The mesh that wears the set: which files, what is baked from them, and what is found on them. */
export function MeshSection({ set, project, edit, isOpen, onOpen }: MeshSectionProps) {
  const { worn, facts } = edit.recipe;
  const px = worn?.size ?? Math.max(facts.width, facts.height);
  const { look, error } = useMeshLook(worn?.low, px);
  const run = useBake(project, set);
  const going = run.bake && isBaking(run.bake) ? run.bake : null;
  const says = worn
    ? `${worn.low.name}, ${worn.low.triangles.toLocaleString("en")} triangles`
    : "none yet";
  return (
    <Section
      title="Mesh"
      says={going ? `${going.doing || "waiting"} · ${Math.round(100 * going.share)} %` : says}
      path="M17 6L28 12V23L17 29L6 23V12ZM6 12L17 18L28 12M17 18V29"
      isOpen={isOpen}
      onOpen={onOpen}
    >
      <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
        <MeshFiles set={set} edit={edit} px={px} />
        <Problem error={error} />
        {worn && (
          <>
            <BakeSettings set={set} edit={edit} worn={worn} look={look} />
            <BakeRun set={set} worn={worn} look={look} run={run} isBusy={edit.isMoving} />
            <MeshMarks look={look} />
            <MeshFindings edit={edit} look={look} px={px} />
          </>
        )}
      </div>
    </Section>
  );
}
