import { useNavigate } from "react-router";
import { api, type PlanRequest, settled } from "../api/client";
import { countOf } from "./counted";
import { useRun } from "./runs";

/** Everything of these sets for these targets, on in the folder of before. */
export const requestOf = (sets: string[], targets: string[]): PlanRequest => ({
  sets,
  targets,
  into: "own",
  unwanted: [],
  answers: [],
  remove: [],
});

/**
 * Deliver sets at once; where something waits or asks, the plan is opened instead. Either is shown,
 * unless `isShown` says by then that the person looks at something else.
 */
export function useDeliverSets(project: string) {
  const { start } = useRun(project);
  const navigate = useNavigate();
  return async (sets: string[], targets: string[], isShown = () => true) => {
    const body = requestOf(sets, targets);
    const count = countOf(
      await settled(
        api.POST("/api/projects/{project}/plans", { params: { path: { project } }, body }),
      ),
    );
    if (!count.waits.length && !count.asks && count.going) await start.mutateAsync(body);
    if (isShown()) navigate(`/p/${project}/delivery?${sets.map((id) => `set=${id}`).join("&")}`);
  };
}
