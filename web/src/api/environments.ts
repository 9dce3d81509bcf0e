import { useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";
import { ask } from "../parts/ask";
import { api, sendBytes, settled } from "./client";
import type { components } from "./schema";

/** A picture of the surroundings that was brought into the project. */
export type Environment = components["schemas"]["Environment"];
/** Its light: linear half floats, four a texel, first row on top. */
export type EnvironmentLight = { width: number; height: number; bytes: ArrayBuffer };

/** The project's own surroundings, and how to bring and forget one. */
export function useEnvironments() {
  const { project = "" } = useParams();
  const queries = useQueryClient();
  const queryKey = ["environments", project];
  const path = { params: { path: { project } } };
  const { data: environments = [] } = useQuery({
    queryKey,
    queryFn: () => settled(api.GET("/api/projects/{project}/environments", path)),
  });
  const onSuccess = () => queries.invalidateQueries({ queryKey });
  const bring = useMutation({
    mutationFn: (file: File) =>
      sendBytes<Environment>(
        `/api/projects/${project}/environments?${new URLSearchParams({ name: file.name })}`,
        file,
      ),
    onSuccess,
  });
  const keep = useMutation({
    mutationFn: ({ sha256, name }: { sha256: string; name: string }) =>
      settled(
        api.POST("/api/projects/{project}/environments/{sha256}", {
          params: { path: { project, sha256 }, query: { name } },
        }),
      ),
    onSuccess,
  });
  const forget = useMutation({
    mutationFn: (id: string) =>
      settled(
        api.DELETE("/api/environments/{environment_id}", {
          params: { path: { environment_id: id } },
        }),
      ),
    onSuccess,
  });
  return { environments, bring, keep, forget };
}

/** The light of these, as far as it has come. */
export const useEnvironmentLights = (ids: string[]): Record<string, EnvironmentLight> =>
  useQueries({
    queries: ids.map((id) => ({
      queryKey: ["environment", id],
      queryFn: async () => ({ [id]: await lightOf(id) }),
      staleTime: Infinity,
    })),
    combine: (answers) => Object.assign({}, ...answers.map(({ data }) => data)),
  });

async function lightOf(id: string): Promise<EnvironmentLight> {
  const response = await ask(`/api/environments/${id}/light`);
  if (!response.ok) throw new Error((await response.json()).detail);
  const count = (name: string) => Number(response.headers.get(name));
  return {
    width: count("x-width"),
    height: count("x-height"),
    bytes: await response.arrayBuffer(),
  };
}
