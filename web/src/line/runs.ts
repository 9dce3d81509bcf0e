import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { create } from "zustand";
import { api, type PlanRequest, type Delivery as Run, settled } from "../api/client";
import { sure } from "../parts/sure";

const POLL_MS = 200;

/** The delivery that this tab started last in each project, until it is put away. */
const useStarted = create<{ ids: Record<string, string | null> }>(() => ({ ids: {} }));

export const isGoing = (run?: Pick<Run, "state">) =>
  run?.state === "waiting" || run?.state === "running";

/** The delivery in hand: how far it is, how to start one, to stop it and to put its report away. */
export function useRun(project: string) {
  const queries = useQueryClient();
  const id = useStarted(({ ids }) => ids[project] ?? null);
  const keep = (next: string | null) =>
    useStarted.setState(({ ids }) => ({ ids: { ...ids, [project]: next } }));
  const run = useQuery({
    queryKey: ["delivery", id],
    queryFn: async () => {
      const found = await settled(
        api.GET("/api/deliveries/{delivery_id}", {
          params: { path: { delivery_id: sure(id, "the delivery") } },
        }),
      );
      if (!isGoing(found))
        for (const kind of ["plans", "deliveries"])
          await queries.invalidateQueries({ queryKey: [kind, project] });
      return found;
    },
    enabled: id !== null,
    refetchInterval: (query) => (isGoing(query.state.data) ? POLL_MS : false),
  });
  const start = useMutation({
    mutationFn: (body: PlanRequest) =>
      settled(
        api.POST("/api/projects/{project}/deliveries", { params: { path: { project } }, body }),
      ),
    onSuccess: (made) => keep(made.id),
  });
  const stop = useMutation({
    mutationFn: () =>
      settled(
        api.POST("/api/deliveries/{delivery_id}/cancel", {
          params: { path: { delivery_id: sure(id, "the delivery") } },
        }),
      ),
  });
  return {
    run: id === null ? undefined : run.data,
    start,
    stop,
    error: start.error ?? run.error ?? stop.error,
    putAway: () => keep(null),
  };
}

/** How a delivery ended, or how far it is. */
export function saidOf(run: Run): string {
  if (run.state === "done") return `Written and read back equal, in ${placesOf(run).join(" and ")}`;
  if (run.state === "cancelled") return "Stopped; nothing was left behind.";
  return run.problem ?? `${Math.round((100 * run.done_units) / Math.max(run.total_units, 1))} %`;
}

const MOST_PLACES = 2;

/** Where the files of a delivery went, the first few by name. */
function placesOf({ sent, folder }: Run): string[] {
  const places = new Set(sent.map(({ place }) => place ?? `deliveries/${folder}`));
  const named = [...places].slice(0, MOST_PLACES).map((place) => place.split("/").join(" / "));
  const more = places.size - named.length;
  return more > 0 ? [...named, `${more} more`] : named;
}
