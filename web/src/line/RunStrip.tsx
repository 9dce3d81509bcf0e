import { Link } from "react-router";
import { isGoing, saidOf, useRun } from "./runs";

/** The delivery in hand, wherever one is: how far, how it ended, and what can be done with it. */
export function RunStrip({ project }: { project: string }) {
  const { run, stop, putAway, error } = useRun(project);
  if (!run && !error) return null;
  return (
    <section
      aria-label="Delivery in hand"
      className="-translate-x-1/2 fixed bottom-[38px] left-1/2 z-30 flex max-w-[720px] items-center gap-3 rounded-[3px] border border-hair bg-sheet px-3 py-2 shadow-[0_2px_10px_rgb(0_0_0/0.15)]"
    >
      {run && isGoing(run) && (
        <progress
          aria-label="Progress of the delivery in hand"
          className="h-1.5 w-32"
          max={run.total_units || 1}
          value={run.done_units}
        />
      )}
      {run && (
        <span role="status" className={run.state === "failed" ? "text-stop" : ""}>
          {saidOf(run)}
        </span>
      )}
      {error && <span className="text-stop">{error.message}</span>}
      {run && isGoing(run) && (
        <button type="button" className="button" onClick={() => stop.mutate()}>
          Stop
        </button>
      )}
      {run?.state === "done" && (
        <>
          <a className="button" href={`/api/deliveries/${run.id}/zip`} download>
            Zip
          </a>
          <Link className="button" to={`/p/${project}/delivery`}>
            Look
          </Link>
        </>
      )}
      {run && !isGoing(run) && (
        <button type="button" className="button" aria-label="Put the report away" onClick={putAway}>
          ×
        </button>
      )}
    </section>
  );
}
