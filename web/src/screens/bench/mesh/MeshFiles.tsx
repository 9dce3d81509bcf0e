import { useState } from "react";
import type { TextureSet } from "../../../api/client";
import { type MeshRef, readMeshes, type Worn } from "../../../api/meshes";
import { BESIDE_ENDINGS, MESH_ENDINGS } from "../../../api/meshNames";
import { withMeshes, withoutPlace } from "../../../line/wearing";
import { ChooseFiles } from "../../../parts/ChooseFiles";
import { Line } from "../../../parts/Line";
import { meaning } from "../../../parts/words";
import type { Edit } from "../edit";
import { UvMenu } from "./UvMenu";

type MeshFilesProps = { set: TextureSet; edit: Edit; px: number };

/** The low mesh, what is baked from, and the cage; brought together or one after the other. */
export function MeshFiles({ set, edit, px }: MeshFilesProps) {
  const { worn } = edit.recipe;
  const [busy, setBusy] = useState<string | null>(null);
  const [problems, setProblems] = useState<string[]>([]);
  const keep = (worn: Worn | null) => edit.keep({ ...edit.recipe, worn });
  const handleFiles = async (files: FileList) => {
    const { looks, wrong } = await readMeshes([...files], px, setBusy);
    setBusy(null);
    const next = withMeshes(worn ?? null, looks, set.name);
    const lone = withoutPlace(next, looks).map((name) => `${name} needs a low mesh beside it.`);
    setProblems([...wrong, ...lone]);
    if (next && looks.length) keep(next);
  };
  return (
    <>
      <ChooseFiles
        label="Meshes: OBJ, PLY, STL, GLB or glTF"
        text={busy ? `Reading ${busy}…` : `Bring ${worn ? "other " : ""}meshes`}
        accept={`${MESH_ENDINGS},${BESIDE_ENDINGS}`}
        isMany
        disabled={busy !== null}
        className="button self-start max-w-full truncate"
        onChoose={(files) => void handleFiles(files)}
      />
      {!worn && (
        <p className="text-sm text-ink2">
          OBJ, PLY, STL, GLB, or glTF with its .bin. Low, high and cage go by the ends of their
          names, as in pin_low and pin_high.
        </p>
      )}
      {worn && (
        <>
          <File
            label="Low"
            says={meaning("low mesh")}
            file={worn.low}
            onRemove={() => keep(null)}
          />
          <UvMenu worn={worn} px={px} onMade={(low) => keep({ ...worn, low })} />
          {worn.high.map((file) => (
            <File
              key={file.sha256}
              label="High"
              says={meaning("high mesh")}
              file={file}
              onRemove={() => keep({ ...worn, high: worn.high.filter((one) => one !== file) })}
            />
          ))}
          {worn.cage && (
            <File
              label="Cage"
              says={meaning("cage")}
              file={worn.cage}
              onRemove={() => keep({ ...worn, cage: null })}
            />
          )}
        </>
      )}
      {problems.map((problem) => (
        <p key={problem} role="alert" className="text-stop">
          ■ {problem}
        </p>
      ))}
    </>
  );
}

type FileProps = { label: string; says: string; file: MeshRef; onRemove: () => void };

function File({ label, says, file, onRemove }: FileProps) {
  return (
    <Line label={label} says={says}>
      <span className="min-w-0 grow truncate font-mono text-mono">{file.name}</span>
      <span className="text-sm text-ink2">{file.triangles.toLocaleString("en")}</span>
      <button
        type="button"
        className="button"
        aria-label={`Take ${file.name} away`}
        onClick={onRemove}
      >
        ×
      </button>
    </Line>
  );
}
