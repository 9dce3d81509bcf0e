import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { benchIsThere } from "../../api/assays";
import type { TextureSet } from "../../api/client";
import { useSets } from "../../api/queries";
import { useCorrections, useOperations } from "../../api/tables";
import { useKey } from "../../parts/useKey";
import { type Edit, useEdit, withParam } from "./edit";
import { Lineage, outline } from "./Lineage";
import { useWornMesh } from "./mesh/useWornMesh";
import { FIRST_CHOSEN } from "./pictures";
import { Viewer } from "./Viewer";

/** One set: the lineage of its masters with live controls in place, and the viewer. */
export function Bench({ project }: { project: string }) {
  const { setId } = useParams();
  const { data: sets, error } = useSets(project);
  const set = sets?.find((s) => s.id === setId) ?? sets?.[0];
  const isWhole = useAfterPaint(set !== undefined);
  useEffect(() => {
    if (isWhole) benchIsThere();
  }, [isWhole]);
  if (error && !sets)
    return <main className="p-4 text-stop">The set could not be read: {error.message}</main>;
  if (!sets) return <main className="p-4 text-ink2">Opening the bench…</main>;
  if (!set)
    return (
      <main className="p-4">
        <h1 className="mb-2">No set on the bench</h1>
        <Link className="button-main" to={`/p/${project}/intake`}>
          Drop a photo or some maps in Intake
        </Link>
      </main>
    );
  return <OneSet key={set.id} set={set} project={project} isWhole={isWhole} />;
}

type OneSetProps = {
  set: TextureSet;
  project: string;
  isWhole: boolean; // at first the picture is there alone, and soon
};

function OneSet({ set, project, isWhole }: OneSetProps) {
  const operations = useOperations();
  useCorrections(); // here, so that no list waits for them when it unfolds
  const edit = useEdit(set, project);
  useWornMesh(set);
  const present = outline(set)
    .filter(({ master }) => master.origin !== "absent")
    .map(({ master }) => master.key);
  const [wanted, setChosen] = useState(FIRST_CHOSEN);
  // a set that is only worn by a mesh has none yet
  const chosen = present.includes(wanted) ? wanted : (present[0] ?? "normal");
  useKey((key) => {
    const way = { "[": -1, "]": 1 }[key];
    if (way) setChosen(present[(present.indexOf(chosen) + way + present.length) % present.length]);
    else if (key === "i") turnRelief(edit, set);
    else if (key === "undo") edit.undo();
    else if (key === "redo") edit.redo();
  });
  return (
    <main className="grid grid-cols-[400px_minmax(0,1fr)]">
      {isWhole ? (
        <Lineage
          project={project}
          set={set}
          operations={operations}
          chosen={chosen}
          onChoose={setChosen}
          edit={edit}
        />
      ) : (
        <div className="border-r border-hair" />
      )}
      <Viewer set={set} edit={edit} chosen={chosen} isWhole={isWhole} />
    </main>
  );
}

/** Ways from a color to a relief, each with the parameter that says what is high. */
const TURNS: Record<string, string | undefined> = {
  height_from_color: "invert",
  height_from_grooves: "are_light",
  normal_from_color: "invert",
};

/**
 * Turn a relief that is read from the color over: of the height, or of normals straight from the
 * color.
 */
function turnRelief(edit: Edit, set: TextureSet) {
  const made = set.masters.find((m) => TURNS[m.op ?? ""] && m.node);
  const turned = TURNS[made?.op ?? ""];
  if (!made?.node || !turned) return;
  const told = edit.recipe.nodes[made.node]?.params ?? {};
  const name = told.seen === "grooves" ? "are_light" : turned;
  edit.keep(withParam(edit.recipe, made.node, name, !told[name]));
}

/** Whether what was laid out when it was ready is on screen. */
function useAfterPaint(isReady: boolean): boolean {
  const [isPainted, setPainted] = useState(false);
  useEffect(() => {
    if (!isReady) return;
    let frame = requestAnimationFrame(() => {
      frame = requestAnimationFrame(() => setPainted(true));
    });
    return () => cancelAnimationFrame(frame);
  }, [isReady]);
  return isPainted;
}
