import { Link } from "react-router";
import { RunState } from "./RunState";
import { isGoing, useRun } from "./runs";

/** The delivery in hand, wherever one is: how far, how it ended, and what can be done with it. */
export function RunStrip({ project }: { project: string }) {
  const { run, stop, putAway, error } = useRun(project);
  if (!run && !error) return null;
  return (
    <section
      aria-label="Delivery in hand"
      className="-translate-x-1/2 fixed bottom-[38px] left-1/2 z-30 flex max-w-[720px]
        items-center gap-3 rounded-[3px] border border-hair bg-sheet px-3 py-2
        shadow-[0_2px_10px_rgb(0_0_0/0.15)]"
    >
      <RunState run={run} stop={stop} />
      {error && <span className="text-stop">{error.message}</span>}
      {run?.state === "done" && (
        <Link className="button" to={`/p/${project}/delivery`}>
          Look
        </Link>
      )}
      {run && !isGoing(run) && (
        <button type="button" className="button" aria-label="Put the report away" onClick={putAway}>
          ×
        </button>
      )}
    </section>
  );
}
