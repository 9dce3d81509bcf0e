import type { Delivery } from "../api/client";
import { CopyPath } from "./CopyPath";
import { isGoing, saidOf, type useRun } from "./runs";

/** How far a delivery is or how it ended, its stop while it goes, its zip once it is done. */
export function RunState({ run, stop }: Pick<ReturnType<typeof useRun>, "run" | "stop">) {
  if (!run) return null;
  return (
    <>
      {isGoing(run) && (
        <progress
          aria-label="Progress of the delivery"
          className="h-1.5 w-32"
          max={run.total_units || 1}
          value={run.done_units}
        />
      )}
      <span role="status" className={run.state === "failed" ? "text-stop" : ""}>
        {saidOf(run)}
      </span>
      {isGoing(run) && (
        <button type="button" className="button" onClick={() => stop.mutate()}>
          Stop
        </button>
      )}
      {run.state === "done" && (
        <a className="button" href={`/api/deliveries/${run.id}/zip`} download>
          Download zip
        </a>
      )}
      {run.state === "done" && (
        <CopyPath path={pathOf(run)} of="what was delivered" className="button" />
      )}
    </>
  );
}

/** Where all of a delivery lies on this computer: its own folder, or the one place it was sent to. */
function pathOf({ path, sent }: Delivery): string {
  const places = new Set(sent.map((one) => one.path));
  return (places.size === 1 && sent[0].path) || path;
}
