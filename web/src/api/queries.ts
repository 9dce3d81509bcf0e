import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  api,
  type PlanRequest,
  type Project,
  type Recipe,
  settled,
  type TextureSet,
} from "./client";
import type { components } from "./schema";

/** Queries that more than one screen asks. */

export const useProjects = () =>
  useQuery({ queryKey: ["projects"], queryFn: () => settled(api.GET("/api/projects")) });

const CHANGES = "changes of projects";

/**
 * Change what is kept of a project, on screen at once, and kept one after another so that the last
 * one stands. An answer that is still under way is older than that, and not waited for; they are
 * asked anew once the last change is kept.
 */
export function useProjectChange<Body extends Partial<Project>>(
  project: string,
  keep: (body: Body) => Promise<unknown>,
) {
  const queries = useQueryClient();
  const queryKey = ["projects"];
  const { mutate, error } = useMutation({
    mutationKey: [CHANGES],
    scope: { id: CHANGES },
    mutationFn: keep,
    onSettled: () => {
      if (queries.isMutating({ mutationKey: [CHANGES] }) === 1)
        return queries.invalidateQueries({ queryKey });
    },
  });
  const change = (body: Body) => {
    void queries.cancelQueries({ queryKey }, { revert: false });
    queries.setQueryData<Project[]>(queryKey, (rows) =>
      rows?.map((row) => (row.name === project ? { ...row, ...body } : row)),
    );
    mutate(body);
  };
  return { change, error };
}

export const useSets = (project: string) =>
  useQuery({
    queryKey: ["sets", project],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/sets", { params: { path: { project } } })),
  });

/**
 * A change of one set. Changes of a set wait for each other and name the head the one before made,
 * so that quick hands never run into their own last step; a head that another tab made still
 * answers 409. A change may look at the recipe as it is by then, and answer null where nothing is
 * left to change.
 */
export function useSetChange<T>(
  project: string,
  setId: string,
  change: (head: number, argument: T, now: Recipe | undefined) => Promise<TextureSet | null>,
  onSettled: (made: TextureSet | null | undefined) => void = () => {},
) {
  const queries = useQueryClient();
  const queryKey = ["sets", project];
  return useMutation({
    scope: { id: setId },
    mutationFn: async (argument: T) => {
      const now = queries.getQueryData<TextureSet[]>(queryKey)?.find((set) => set.id === setId);
      const made = await change(now?.head ?? 0, argument, now?.recipe);
      if (!made) return made;
      // an answer asked for before the change would bring the older head back
      await queries.cancelQueries({ queryKey });
      queries.setQueryData<TextureSet[]>(queryKey, (sets) =>
        sets?.map((set) => (set.id === setId ? made : set)),
      );
      return made;
    },
    onSettled: (made) => queries.invalidateQueries({ queryKey }).then(() => onSettled(made)),
  });
}

/** Give a set another size. */
export const useResize = (project: string, setId: string) =>
  useSetChange(project, setId, (expects, size: components["schemas"]["SizeRequest"]) =>
    settled(
      api.POST("/api/sets/{set_id}/size", {
        params: { path: { set_id: setId } },
        body: { expects, size },
      }),
    ),
  );

export const useTargets = () =>
  useQuery({
    queryKey: ["targets"],
    queryFn: () => settled(api.GET("/api/targets")),
    staleTime: Infinity,
  });

/** What sets come to for targets, as the files would be and as they stand against their folder. */
export const usePlans = (
  project: string,
  heads: string,
  { sets, targets, ...more }: Pick<PlanRequest, "sets" | "targets"> & Partial<PlanRequest>,
) =>
  useQuery({
    queryKey: ["plans", project, sets, targets, heads, more],
    queryFn: () =>
      settled(
        api.POST("/api/projects/{project}/plans", {
          params: { path: { project } },
          body: { into: "own", unwanted: [], answers: [], remove: [], sets, targets, ...more },
        }),
      ),
    placeholderData: (before, query) =>
      query?.queryKey.slice(0, 5).join("|") === ["plans", project, sets, targets, heads].join("|")
        ? before
        : undefined, // only what narrows has changed
    enabled: sets.length > 0 && targets.length > 0,
  });
