import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, type Project, settled } from "../api/client";
import { useProjectChange, useProjects } from "../api/queries";

const LOOK_MS = 2000;

export type KeepsUp = Pick<Project, "takes_newer" | "delivers_changes">;

/** What a project does by itself, and how to say otherwise. */
export function useKeepsUp(project: string) {
  const { data: projects } = useProjects();
  const { change, error } = useProjectChange(project, (body: Partial<KeepsUp>) =>
    settled(api.PUT("/api/projects/{project}", { params: { path: { project } }, body })),
  );
  const found = projects?.find((row) => row.name === project);
  return {
    takesNewer: found?.takes_newer ?? false,
    deliversChanges: found?.delivers_changes ?? false,
    change,
    error,
  };
}

/** What came of it. Sets and plans are asked anew where something was done. */
export function useKept(project: string) {
  const { takesNewer, deliversChanges } = useKeepsUp(project);
  const queries = useQueryClient();
  const { data: kept } = useQuery({
    queryKey: ["kept", project],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/kept-up", { params: { path: { project } } })),
    enabled: takesNewer || deliversChanges,
    refetchInterval: LOOK_MS,
  });
  const heads = JSON.stringify(kept?.heads ?? {});
  const run = `${kept?.delivery?.id} ${kept?.delivery?.state}`;
  useEffect(() => {
    if (heads !== "{}") void queries.invalidateQueries({ queryKey: ["sets", project] });
  }, [heads, queries, project]);
  useEffect(() => {
    if (!run.endsWith("done")) return;
    for (const kind of ["plans", "deliveries"])
      void queries.invalidateQueries({ queryKey: [kind, project] });
  }, [run, queries, project]);
  return takesNewer || deliversChanges ? kept : undefined;
}
