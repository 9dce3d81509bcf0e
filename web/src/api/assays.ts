import {
  keepPreviousData,
  type QueryClient,
  skipToken,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { isRefused } from "../parts/failures";
import { type AssayRow, api, type Finding, settled, type TextureSet } from "./client";
import { useSets } from "./queries";
import type { components } from "./schema";
import { inTurns } from "./turns";

/**
 * What is found on sets. Hundreds are looked at one after another: their answers are put down a few
 * times a second, all that came meanwhile at once, so that what shows them is not drawn for each.
 */

/** A finding on a set; `leaves` answers a question by leaving all as it is. */
export type Assayed = AssayRow & { set: TextureSet; leaves?: boolean };

const NO_SETS: string[] = [];
const WATCH_MS = 4000; // how soon a file that changed in a linked folder is told

/**
 * Sets whose files changed in a folder they are linked to, asked again and again while there are
 * linked sets.
 */
function useChanged(project: string, sets: TextureSet[]): readonly string[] {
  const isLinked = sets.some((set) =>
    Object.values(set.recipe.sources ?? {}).some((source) => source.place),
  );
  const { data = NO_SETS } = useQuery({
    queryKey: ["changed", project],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/changed", { params: { path: { project } } })),
    enabled: isLinked,
    refetchInterval: WATCH_MS,
  });
  return data;
}

/** The answers by set and head; null for one that did not come, of which nothing is known. */
type Known = Readonly<Record<string, AssayRow[] | null>>;
const KNOWN = ["assays"];
const NONE_KNOWN: Known = {};
const TOGETHER_MS = 150;

const keyOf = ({ id, head }: TextureSet, isChanged: boolean) =>
  `${id} ${head}${isChanged ? " changed" : ""}`;

const turns = inTurns(3);
const OPENING_MS = 1000;
let letGo = () => {};
const asking = new Set<string>();
const refused = new WeakSet<TextureSet>(); // a set that left and came back is another object
let arrived: Known = NONE_KNOWN;
let last = 0;

/** A bench that is about to open comes before what is found on its set. */
export function putBenchFirst() {
  letGo = turns.hold(OPENING_MS);
}

/** The bench is on screen. */
export const benchIsThere = () => letGo();

function putDown(client: QueryClient, key: string, rows: AssayRow[] | null) {
  const isFirst = arrived === NONE_KNOWN;
  arrived = { ...arrived, [key]: rows };
  if (!isFirst) return;
  setTimeout(
    () => {
      client.setQueryData<Known>(KNOWN, (known) => ({ ...known, ...arrived }));
      for (const one of Object.keys(arrived)) asking.delete(one);
      arrived = NONE_KNOWN;
      last = performance.now();
    },
    Math.max(0, last + TOGETHER_MS - performance.now()),
  );
}

/**
 * Look at a set, unless that is known, under way or was refused; what got no answer is asked for with
 * the next look.
 */
function look(client: QueryClient, set: TextureSet, key: string) {
  if (client.getQueryData<Known>(KNOWN)?.[key] || asking.has(key) || refused.has(set)) return;
  const { id, head } = set;
  asking.add(key);
  const params = { path: { set_id: id }, query: { head } };
  const queryFn = () => settled(api.GET("/api/sets/{set_id}/assay", { params }));
  turns
    .ask(id, () => client.fetchQuery({ queryKey: ["assay", key], queryFn, gcTime: 0 }))
    .then((rows) => putDown(client, key, rows))
    .catch((problem) => {
      if (isRefused(problem)) refused.add(set);
      putDown(client, key, null);
    });
}

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
 * Everything found on these sets of a project, all together and set by set, whether some are still
 * being looked at, and which could not be.
 */
export function useAssay(project: string, sets: TextureSet[]) {
  const client = useQueryClient();
  const changed = useChanged(project, sets);
  const density = useDensity(project);
  const { data: known = NONE_KNOWN } = useQuery<Known>({
    queryKey: KNOWN,
    queryFn: skipToken,
    gcTime: Infinity,
    structuralSharing: false, // hundreds of sets' rows would be compared whole with each that comes
  });
  const keys = useMemo(
    () => sets.map((set) => keyOf(set, changed.includes(set.id))),
    [sets, changed],
  );
  useEffect(() => {
    for (const [k, set] of sets.entries()) look(client, set, keys[k]);
  }, [client, sets, keys]);
  const each = useMemo(() => keys.map((key) => known[key] ?? undefined), [keys, known]);
  const rows = useMemo(
    () =>
      sets.flatMap((set, k) =>
        foundOn(set.id, each[k], density).map((row): Assayed => ({ ...row, set })),
      ),
    [sets, each, density],
  );
  const lookAgain = () => {
    client.setQueryData<Known>(KNOWN, (known = NONE_KNOWN) =>
      Object.fromEntries(Object.entries(known).filter(([, rows]) => rows)),
    );
    for (const [k, set] of sets.entries()) {
      refused.delete(set);
      look(client, set, keys[k]);
    }
  };
  return {
    rows,
    each,
    density,
    isLooking: keys.some((key) => known[key] === undefined),
    unseen: sets.filter((_, k) => known[keys[k]] === null),
    lookAgain,
  };
}

/** What is found on the set in hand, which no other set's answer comes before. */
export function useFoundHere(project: string, set: TextureSet) {
  const sets = useMemo(() => [set], [set]);
  const { rows } = useAssay(project, sets);
  useEffect(() => turns.hurry(set.id));
  return rows;
}

/** What was found on one set, by itself and among the others. */
export const foundOn = (set: string, own: AssayRow[] | undefined, density: DensityRow[]) => [
  ...(own ?? []),
  ...density.filter((row) => row.set === set),
];

/** Whether a finding is of a folder that a set is linked to. */
export const isOfFolder = ({ id }: Pick<Finding, "id">) =>
  id === "source-changed" || id === "source-added";

/** Apply the fix of a finding: one step of the set's history. */
export function useFix(project: string) {
  const client = useQueryClient();
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
    onSettled: () => client.invalidateQueries({ queryKey: ["sets", project] }),
  });
}
