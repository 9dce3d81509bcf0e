import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { api, settled } from "../../../api/client";
import type { Edit } from "../edit";
import { useView } from "../view";
import {
  anew,
  askedOf,
  piecesFor,
  placesFor,
  type RepeatAsked,
  repeatFor,
  type Vary,
} from "./asking";
import { type Spot, type Step, type StepOf, stepsOf } from "./steps";

/**
 * Changing the steps of a set: each is one step of undo. What has to be looked at first (where a
 * line runs, what fills a spot) is asked of the server and kept in the step.
 */
export function useSteps(edit: Edit) {
  const open = useView((view) => view.openPrep);
  const showPrep = useView((view) => view.showPrep);
  const steps = stepsOf(edit.recipe);
  const latest = useRef(0);
  /** Replace a step; what was decided behind one that moves the picture is decided anew. */
  const change = useMutation({
    mutationFn: async ({ at, step }: { at: number; step: Step | null }) => {
      const next = [...steps];
      next.splice(at, 1, ...(step ? [step] : []));
      const moves = step?.kind !== "spots" && steps[at]?.kind !== "spots";
      const isBack = step?.kind === "variant" && step.is_on && !steps[at]?.is_on;
      const made = moves ? await anew(edit, next, step && !isBack ? at + 1 : at) : next;
      latest.current++;
      await edit.writeSteps(made);
    },
    onSettled: () => edit.move(null),
  });
  /** Another picture out of pieces: a new step, or the one that is there with another seed. */
  const vary = useMutation({
    mutationFn: async ({ at, asked }: { at: number; asked: Vary }) => {
      const made = await piecesFor(edit, at, asked, steps);
      latest.current++;
      await edit.writeSteps([...steps.slice(0, at), made, ...steps.slice(at + 1)]);
    },
    onSettled: () => edit.move(null),
  });
  const repeat = useMutation({
    mutationFn: async ({ at, asked }: { at: number; asked: RepeatAsked }) => {
      const turn = ++latest.current;
      const made = await repeatFor(edit, at, asked, steps);
      const next = [...steps.slice(0, at), made, ...steps.slice(at + 1)];
      const all = turn === latest.current ? await anew(edit, next, at + 1) : next;
      if (turn === latest.current) await edit.writeSteps(all); // else it was asked again meanwhile
    },
    onSettled: () => edit.move(null),
  });
  /** Repeat by the picture's own pattern, turned straight first where it has to be. */
  const follow = useMutation({
    mutationFn: async (at: number) => {
      latest.current++;
      const body = { recipe: edit.recipe, at };
      const next = stepsOf(await settled(api.POST("/api/patterns", { body })));
      const here = Math.max(at, at + next.length - steps.length);
      await edit.writeSteps(await anew(edit, next, here + 1));
      open(here);
      showPrep("result");
    },
  });
  /** The quick line while a control moves, shown and not kept. */
  const tryRepeat = async (at: number, asked: RepeatAsked) => {
    const turn = ++latest.current;
    const made = await repeatFor(edit, at, asked, steps, true);
    const next = [...steps.slice(0, at), made, ...steps.slice(at + 1)];
    const { data } = await api.POST("/api/prepared", {
      body: { recipe: edit.recipe, steps: next },
    });
    if (data && turn === latest.current) edit.move(data);
  };
  /** A step as a control moves it, shown and not kept. */
  const tryStep = async (at: number, step: Step) => {
    const turn = ++latest.current;
    const body = { recipe: edit.recipe, steps: steps.with(at, step) };
    const { data } = await api.POST("/api/prepared", { body });
    if (data && turn === latest.current) edit.move(data);
  };
  const spot = useMutation({
    mutationFn: async ({ at, spot }: { at: number; spot: Omit<Spot, "from_x" | "from_y"> }) => {
      const step = steps[at];
      if (step?.kind !== "spots") return;
      const places = await placesFor(edit, at, spot, steps);
      await edit.writeSteps(steps.with(at, { ...step, spots: [...step.spots, places[0]] }));
    },
  });
  /** The next best place to fill a spot from, and after the last the first again. */
  const another = useMutation({
    mutationFn: async ({ at, which }: { at: number; which: number }) => {
      const step = steps[at];
      if (step?.kind !== "spots") return;
      const now = step.spots[which];
      const without = steps.with(at, { ...step, spots: step.spots.filter((_, k) => k !== which) });
      const places = await placesFor(edit, at, now, without);
      const here = places.findIndex(
        (p) => Math.hypot(p.from_x - now.from_x, p.from_y - now.from_y) < 0.004,
      );
      const next = places[(here + 1) % places.length];
      await edit.writeSteps(steps.with(at, { ...step, spots: step.spots.with(which, next) }));
    },
  });
  const add = (step: Step, at = steps.length, then?: () => void) => {
    const next = [...steps.slice(0, at), step, ...steps.slice(at)];
    void edit.writeSteps(next).then(() => {
      open(at);
      then?.();
    });
  };
  const every = [change, repeat, vary, follow, spot, another];
  return {
    steps,
    change: (at: number, step: Step | null) => change.mutate({ at, step }),
    repeat: (at: number, asked: RepeatAsked, then?: () => void) =>
      repeat.mutate({ at, asked }, { onSuccess: then }),
    vary: (at: number, asked: Vary, then?: () => void) =>
      vary.mutate({ at, asked }, { onSuccess: then }),
    follow: (at: number) => follow.mutate(at),
    tryRepeat: (at: number, asked: RepeatAsked) => void tryRepeat(at, asked),
    tryStep: (at: number, step: Step) => void tryStep(at, step),
    spot: (at: number, one: Omit<Spot, "from_x" | "from_y">) => spot.mutate({ at, spot: one }),
    another: (at: number, which: number) => another.mutate({ at, which }),
    add,
    /** What a repeat is asked for: the latest, also while its line is still looked for. */
    askedAt: (at: number, step: StepOf<"repeat">) =>
      repeat.isPending && repeat.variables.at === at ? repeat.variables.asked : askedOf(step),
    isDeciding: repeat.isPending || vary.isPending || follow.isPending,
    isBusy: every.some((one) => one.isPending),
    problem: every.find((one) => one.error)?.error ?? null,
  };
}
