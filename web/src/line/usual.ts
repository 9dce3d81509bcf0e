import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Project, settled } from "../api/client";
import { useProjects } from "../api/queries";

/** The targets that a project usually delivers to, and how to change them. */
export function useUsual(project: string) {
  const { data: projects } = useProjects();
  const queries = useQueryClient();
  const change = useMutation({
    mutationFn: (usual: string[]) =>
      settled(
        api.PUT("/api/projects/{project}/usual", {
          params: { path: { project } },
          body: { usual },
        }),
      ),
    onMutate: (usual) =>
      queries.setQueryData<Project[]>(["projects"], (rows) =>
        rows?.map((row) => (row.name === project ? { ...row, usual } : row)),
      ),
    onError: () => queries.invalidateQueries({ queryKey: ["projects"] }),
  });
  const found = projects?.find((row) => row.name === project)?.usual;
  return { usual: found ?? [], isKnown: found !== undefined, change: change.mutate };
}
