import { useEnvironments } from "../../api/environments";
import type { Situation } from "../../view3d/names";
import { lightsOf } from "./comparing";
import { useView } from "./view";

/**
 * How the body is lit, and what else could light it. A picture of another project lights nothing
 * here.
 */
export function useLight(): { situation: Situation; offered: [Situation, string][] } {
  const { environments } = useEnvironments();
  const wanted = useView((view) => view.situation);
  const offered = lightsOf(environments);
  const isThere = offered.some(([key]) => key === wanted);
  return { situation: isThere ? wanted : "indoor", offered };
}
