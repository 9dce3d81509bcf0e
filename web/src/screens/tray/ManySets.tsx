import { useState } from "react";
import { useNavigate } from "react-router";
import type { TextureSet } from "../../api/client";
import { useDeliverSets } from "../../line/useDeliverSets";
import { useUsual } from "../../line/usual";
import { useKey } from "../../parts/useKey";
import { ManyChanges } from "./ManyChanges";

type ManySetsProps = {
  project: string;
  sets: TextureSet[];
  all: TextureSet[];
  isEvery: boolean;
  onAll: () => void;
  onNone: () => void;
  onRemove: () => void;
};

/** What can be done with the selected sets at once. */
export function ManySets({ project, sets, all, isEvery, onAll, onNone, onRemove }: ManySetsProps) {
  const { usual } = useUsual(project);
  const deliver = useDeliverSets(project);
  const navigate = useNavigate();
  const [problem, setProblem] = useState<string | null>(null);
  const [isBusy, setBusy] = useState(false);
  const ids = sets.map(({ id }) => id);
  const count = `${sets.length} ${sets.length === 1 ? "set" : "sets"}`;
  const handleDeliver = async () => {
    if (!usual.length)
      return void navigate(`/p/${project}/delivery?${ids.map((id) => `set=${id}`).join("&")}`);
    setBusy(true);
    await deliver(ids, usual).catch((failed: Error) => setProblem(failed.message));
    setBusy(false);
  };
  useKey((key) => key === "run" && void handleDeliver());
  return (
    <div
      role="group"
      aria-label="Selected sets"
      className="sticky -top-3.5 z-20 mb-3 flex flex-wrap items-center gap-3 border-b-2 border-copper
        bg-sheet px-3 py-2"
    >
      <b className="font-semibold">{count} selected</b>
      {!isEvery && (
        <button type="button" className="button" onClick={onAll}>
          Select all
        </button>
      )}
      <button type="button" className="button" onClick={onNone}>
        Select none
      </button>
      {problem && <span className="text-stop">{problem}</span>}
      <button type="button" className="button ml-auto" onClick={onRemove}>
        Take {count} off the tray
      </button>
      <button
        type="button"
        className="button-main"
        disabled={isBusy}
        onClick={() => void handleDeliver()}
      >
        Deliver {count}
      </button>
      <ManyChanges project={project} sets={sets} all={all} />
    </div>
  );
}
