import { api, settled } from "../api/client";
import { useProjectChange, useProjects } from "../api/queries";

/** The targets that a project usually delivers to, and how to change them. */
export function useUsual(project: string) {
  const { data: projects } = useProjects();
  const { change } = useProjectChange(project, (body: { usual: string[] }) =>
    settled(api.PUT("/api/projects/{project}/usual", { params: { path: { project } }, body })),
  );
  const found = projects?.find((row) => row.name === project)?.usual;
  return {
    usual: found ?? [],
    isKnown: found !== undefined,
    change: (usual: string[]) => change({ usual }),
  };
}
