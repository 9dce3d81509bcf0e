import { useQuery } from "@tanstack/react-query";
import { api, type Recipe, settled } from "../../../api/client";
import type { Edit } from "../edit";
import { useView } from "../view";
import { shownUpTo, stepsOf } from "./steps";

/**
 * The recipe whose pictures are under the hand while a step of preparing is open; null where none
 * is, or it is not here yet.
 */
export function usePrepared(edit: Edit): Recipe | null {
  const prep = useView((view) => view.prep);
  const steps = stepsOf(edit.recipe);
  const open = prep ? steps[prep.at] : undefined;
  const upTo = prep && open ? shownUpTo(open.kind, prep.at, prep.shows) : steps.length;
  const isWhole = upTo >= steps.length;
  const shown = steps.slice(0, upTo);
  const { data } = useQuery({
    queryKey: ["prepared", edit.recipe, upTo],
    queryFn: () =>
      settled(api.POST("/api/prepared", { body: { recipe: edit.recipe, steps: shown } })),
    enabled: open !== undefined && !isWhole,
    staleTime: Infinity,
    gcTime: 0,
    placeholderData: (before) => before,
  });
  if (!open) return null;
  return isWhole ? edit.recipe : (data ?? null);
}
