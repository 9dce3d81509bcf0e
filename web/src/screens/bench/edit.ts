import { useMemo, useRef, useState } from "react";
import { api, type Recipe, settled, type TextureSet } from "../../api/client";
import { useSetChange } from "../../api/queries";
import { carried } from "./carried";
import { type MakeSteps, useSteps } from "./prepare/useSteps";

/** The recipe with one parameter of one node set. */
export function withParam(recipe: Recipe, node: string, name: string, value: unknown): Recipe {
  const nodes = recipe.nodes ?? {};
  return {
    ...recipe,
    nodes: {
      ...nodes,
      [node]: { ...nodes[node], params: { ...nodes[node].params, [name]: value } },
    },
  };
}

/** What a hand makes of a recipe, and the recipe that it had in front of it. */
type Draft = { before: Recipe; wanted: Recipe };

/**
 * A set's recipe under the hand: a draft while something moves, one version per finished move, undo
 * and redo. Changes wait for each other, and each is made of what the one before left.
 */
export function useEdit(set: TextureSet, project: string) {
  const [draft, setDraft] = useState<Draft | null>(null);
  const path = { params: { path: { set_id: set.id } } };
  const unsaved = useRef(0);
  // not before the last of several: an older one would flash
  const handleSaved = () => --unsaved.current === 0 && setDraft(null);
  const write = useSetChange(
    project,
    set.id,
    (expects, { before, wanted }: Draft, now = before) => {
      const recipe = carried(before, wanted, now);
      return settled(
        api.PUT("/api/sets/{set_id}/recipe", { ...path, body: { expects, recipe, note: "" } }),
      );
    },
    handleSaved,
  );
  const step = useSetChange(project, set.id, (expects, way: "undo" | "redo") =>
    settled(api.POST("/api/sets/{set_id}/step", { ...path, body: { expects, step: way } })),
  );
  const prepare = useSetChange(project, set.id, async (expects, make: MakeSteps, now) => {
    const steps = now && (await make(now));
    if (!steps) return null;
    return settled(api.PUT("/api/sets/{set_id}/steps", { ...path, body: { expects, steps } }));
  });
  const recipe = useMemo(
    () => (draft ? carried(draft.before, draft.wanted, set.recipe) : set.recipe),
    [draft, set.recipe],
  );
  const move = (wanted: Recipe | null) => {
    if (wanted) setDraft({ before: set.recipe, wanted });
    else if (unsaved.current === 0) setDraft(null);
  };
  return {
    recipe,
    isMoving: draft !== null && !write.isPending,
    /** Show a recipe without keeping it; null ends that. */
    move,
    keep: (wanted: Recipe) => {
      move(wanted);
      unsaved.current++;
      write.mutate({ before: set.recipe, wanted });
    },
    /** The steps that the set's pictures go through first. */
    preparing: useSteps({ recipe, kept: set.recipe, move, changeSteps: prepare.mutateAsync }),
    undo: () => set.can_undo && step.mutate("undo"),
    redo: () => set.can_redo && step.mutate("redo"),
    problem: write.error ?? step.error,
  };
}
export type Edit = ReturnType<typeof useEdit>;
