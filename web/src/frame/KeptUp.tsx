import { Link } from "react-router";
import type { components } from "../api/schema";
import { type KeepsUp, useKeepsUp, useKept } from "../line/keepsUp";
import { isGoing } from "../line/runs";
import { Hint } from "../parts/Hint";
import { whenSaid } from "../parts/said";

export type Done = components["schemas"]["KeptUp"];

/** In the strip: what this project does by itself, and what came of it last. */
export function KeptUp({ project }: { project: string }) {
  const { takesNewer, deliversChanges } = useKeepsUp(project);
  const kept = useKept(project);
  const said = keptSaid({ takes_newer: takesNewer, delivers_changes: deliversChanges }, kept);
  if (!said) return null;
  return (
    <span role="status" className={`min-w-0 truncate ${said.isProblem ? "text-look" : ""}`}>
      <Hint says={said.isProblem ? said.text : undefined}>
        <Link to={`/p/${project}/delivery`}>{said.text}</Link>
      </Hint>
    </span>
  );
}

/** The sentence, and whether somebody has to do something; null where a project does nothing so. */
export function keptSaid(
  { takes_newer, delivers_changes }: KeepsUp,
  kept: Done | undefined,
): { text: string; isProblem: boolean } | null {
  if (!takes_newer && !delivers_changes) return null;
  const { problems = {}, delivery = null } = kept ?? {};
  const [problem] = Object.values(problems);
  const run = delivers_changes ? delivery : null;
  if (run?.state === "failed")
    return { text: `Not delivered again: ${run.problem}`, isProblem: true };
  if (problem) return { text: problem, isProblem: true };
  if (run && isGoing(run)) return { text: "Delivering again…", isProblem: false };
  if (run?.state === "done")
    return { text: `Delivered again, ${whenSaid(run.created)}`, isProblem: false };
  const does = [
    takes_newer && "takes newer files",
    delivers_changes && "delivers every change",
  ].filter(Boolean);
  return { text: `By itself: ${does.join(", ")}`, isProblem: false };
}
