import { useQuery } from "@tanstack/react-query";
import { api, settled } from "../api/client";

/** All sets of a project. */
export function useSets(project: string) {
  return useQuery({
    queryKey: ["sets", project],
    queryFn: () => settled(api.GET("/api/projects/{project}/sets", { params: { path: { project } } })),
  });
}
