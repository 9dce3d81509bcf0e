import { useRef, useState } from "react";
import { api, type Recipe, settled, type TextureSet } from "../../api/client";
import { useSetChange } from "../../api/queries";
import type { Step } from "./prepare/steps";

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

/**
 * A set's recipe under the hand: a draft while something moves, one version per finished move, undo
 * and redo.
 */
export function useEdit(set: TextureSet, project: string) {
  const [draft, setDraft] = useState<Recipe | null>(null);
  const path = { params: { path: { set_id: set.id } } };
  const unsaved = useRef(0);
  // not before the last of several: an older one would flash
  const handleSaved = () => --unsaved.current === 0 && setDraft(null);
  const write = useSetChange(
    project,
    set.id,
    (expects, recipe: Recipe) =>
      settled(
        api.PUT("/api/sets/{set_id}/recipe", { ...path, body: { expects, recipe, note: "" } }),
      ),
    handleSaved,
  );
  const step = useSetChange(project, set.id, (expects, way: "undo" | "redo") =>
    settled(api.POST("/api/sets/{set_id}/step", { ...path, body: { expects, step: way } })),
  );
  const prepare = useSetChange(project, set.id, (expects, steps: Step[]) =>
    settled(api.PUT("/api/sets/{set_id}/steps", { ...path, body: { expects, steps } })),
  );
  return {
    recipe: draft ?? set.recipe,
    isMoving: draft !== null && !write.isPending,
    move: setDraft,
    keep: (recipe: Recipe) => {
      setDraft(recipe);
      unsaved.current++;
      write.mutate(recipe);
    },
    /** Let the set's pictures go through other steps; done once that is kept. */
    writeSteps: (steps: Step[]) => prepare.mutateAsync(steps),
    undo: () => set.can_undo && step.mutate("undo"),
    redo: () => set.can_redo && step.mutate("redo"),
    problem: write.error ?? step.error,
  };
}
export type Edit = ReturnType<typeof useEdit>;
