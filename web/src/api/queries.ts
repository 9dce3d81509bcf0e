import {
  keepPreviousData,
  type UseQueryResult,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
  useSuspenseQuery,
} from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import {
  type AssayRow,
  api,
  type Finding,
  type PlanRequest,
  type Project,
  settled,
  type TextureSet,
} from "./client";
import type { components } from "./schema";
import { inTurns } from "./turns";

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

/** A finding on a set; `leaves` answers a question by leaving all as it is. */
export type Assayed = AssayRow & { set: TextureSet; leaves?: boolean };

const WATCH_MS = 4000; // how soon a file that changed in a linked folder is told

/**
 * Sets whose files changed in a folder they are linked to, asked again and again while there are
 * linked sets.
 */
function useChanged(project: string, sets: TextureSet[]): string[] {
  const isLinked = sets.some((set) =>
    Object.values(set.recipe.sources ?? {}).some((source) => source.place),
  );
  const { data = [] } = useQuery({
    queryKey: ["changed", project],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/changed", { params: { path: { project } } })),
    enabled: isLinked,
    refetchInterval: WATCH_MS,
  });
  return data;
}

const assays = inTurns(3);

const assayQuery = (set: TextureSet, isChanged: boolean) => ({
  queryKey: ["assay", set.id, set.head, isChanged],
  queryFn: () =>
    assays.ask(set.id, () =>
      settled(
        api.GET("/api/sets/{set_id}/assay", {
          params: { path: { set_id: set.id }, query: { head: set.head } },
        }),
      ),
    ),
  staleTime: Infinity,
});

export type DensityRow = components["schemas"]["DensityRow"];
const NONE: DensityRow[] = [];

/**
 * Sets whose texels are much larger or smaller than the others', asked anew when any set moved on.
 */
function useDensity(project: string) {
  const { data: sets = [] } = useSets(project);
  const isKnown = sets.filter((set) => set.recipe.facts.tile_size !== null).length > 1;
  const { data = [] } = useQuery({
    queryKey: ["density", project, ...sets.map(({ head }) => head)],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/density", { params: { path: { project } } })),
    enabled: isKnown,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  return isKnown ? data : NONE;
}

/**
 * Everything found on these sets of a project, all together and set by set, and whether some are
 * still being looked at.
 */
export function useAssay(project: string, sets: TextureSet[]) {
  const changed = useChanged(project, sets);
  const density = useDensity(project);
  const { each, isLooking } = useQueries({
    queries: sets.map((set) => assayQuery(set, changed.includes(set.id))),
    combine: answersOf,
  });
  const rows = useMemo(
    () =>
      sets.flatMap((set, k) =>
        foundOn(set.id, each[k], density).map((row): Assayed => ({ ...row, set })),
      ),
    [sets, each, density],
  );
  return { rows, each, density, isLooking };
}

/** What is found on the set in hand, which no other set's answer comes before. */
export function useFoundHere(project: string, set: TextureSet) {
  const { rows } = useAssay(project, [set]);
  useEffect(() => assays.hurry(set.id));
  return rows;
}

/** What was found on one set, by itself and among the others. */
export const foundOn = (set: string, own: AssayRow[] | undefined, density: DensityRow[]) => [
  ...(own ?? []),
  ...density.filter((row) => row.set === set),
];

/**
 * Every set's answer in its place: what is combined is compared with what was before, and hundreds
 * of sets' rows in one list, moved by each that comes, would be compared whole each time.
 */
const answersOf = (answers: UseQueryResult<AssayRow[]>[]) => ({
  each: answers.map(({ data }) => data),
  isLooking: answers.some(({ isPending }) => isPending),
});

/**
 * A change of one set. Changes of a set wait for each other and name the head the one before made,
 * so that quick hands never run into their own last step; a head that another tab made still
 * answers 409.
 */
export function useSetChange<T>(
  project: string,
  setId: string,
  change: (head: number, argument: T) => Promise<TextureSet>,
  onSettled: (made: TextureSet | undefined) => void = () => {},
) {
  const queries = useQueryClient();
  const queryKey = ["sets", project];
  const head = () =>
    queries.getQueryData<TextureSet[]>(queryKey)?.find((set) => set.id === setId)?.head ?? 0;
  return useMutation({
    scope: { id: setId },
    mutationFn: async (argument: T) => {
      const made = await change(head(), argument);
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

/** Whether a finding is of a folder that a set is linked to. */
export const isOfFolder = ({ id }: Pick<Finding, "id">) =>
  id === "source-changed" || id === "source-added";

/** Apply the fix of a finding: one step of the set's history. */
export function useFix(project: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ set, finding, leaves = false }: Assayed) =>
      isOfFolder(finding)
        ? settled(
            api.POST("/api/sets/{set_id}/refresh", {
              params: { path: { set_id: set.id } },
              body: { expects: set.head },
            }),
          )
        : settled(
            api.POST("/api/sets/{set_id}/fixes", {
              params: { path: { set_id: set.id } },
              body: {
                expects: set.head,
                finding: finding.id,
                master: finding.master,
                leave: leaves,
              },
            }),
          ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["sets", project] }),
  });
}

/**
 * What a master can be. A place waits for it: a press that came before it would find no master to
 * act on, and be lost.
 */
export const useQuantities = () =>
  useSuspenseQuery({
    queryKey: ["quantities"],
    queryFn: () => settled(api.GET("/api/quantities")),
    staleTime: Infinity,
  }).data;

/** The formats that files are written in, and what each holds; a place waits for them. */
export const useFormats = () =>
  useSuspenseQuery({
    queryKey: ["formats"],
    queryFn: () => settled(api.GET("/api/formats")),
    staleTime: Infinity,
  }).data;

/** What can be corrected of a given map, by its kind; a place waits for it. */
export const useCorrections = () =>
  useSuspenseQuery({
    queryKey: ["corrections"],
    queryFn: () => settled(api.GET("/api/corrections")),
    staleTime: Infinity,
  }).data;

/** Every way of every operation, with its controls; a place waits for them. */
export const useOperations = () =>
  useSuspenseQuery({
    queryKey: ["operations"],
    queryFn: () => settled(api.GET("/api/operations")),
    staleTime: Infinity,
  }).data;

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
