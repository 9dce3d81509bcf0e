import { useRef, useState } from "react";
import { api, type Recipe, settled } from "../../../api/client";
import { carried } from "../carried";
import { useView } from "../view";
import {
  anew,
  askedOf,
  piecesFor,
  placesFor,
  type RepeatAsked,
  repeatFor,
  type Vary,
  withSteps,
} from "./asking";
import { type Spot, type Step, type StepOf, stepsOf } from "./steps";

/** The steps to put in place of a recipe's; null where nothing is left to change. */
export type MakeSteps = (recipe: Recipe) => Promise<Step[] | null>;
export type Placed = Omit<Spot, "from_x" | "from_y">;

type Hand = {
  /** As it is shown, while something moves too. */
  recipe: Recipe;
  kept: Recipe;
  move: (recipe: Recipe | null) => void;
  /** Called when its turn comes; done once the steps are kept. */
  changeSteps: (make: MakeSteps) => Promise<unknown>;
};

/** A change that is not kept yet. */
type Waiting =
  | { does: "repeat"; at: number; asked: RepeatAsked }
  | { does: "spot"; at: number; spot: Placed }
  | { does: "decide" | "change" };

/**
 * Changing the steps of a set: each is one step of undo. What has to be looked at first (where a
 * line runs, what fills a spot) is asked of the server and kept in the step. A quick hand need not
 * wait: every change is made of what the one before it left.
 */
export function useSteps({ recipe, kept, move, changeSteps }: Hand) {
  const open = useView((view) => view.openPrep);
  const showPrep = useView((view) => view.showPrep);
  const [waiting, setWaiting] = useState<Waiting[]>([]);
  const [problem, setProblem] = useState<Error | null>(null);
  const tried = useRef(0);
  const repeats = useRef(0);
  const steps = stepsOf(recipe);

  const run = async (what: Waiting, make: MakeSteps, then?: () => void) => {
    setProblem(null);
    setWaiting((all) => [...all, what]);
    tried.current++;
    try {
      await changeSteps(make);
      then?.();
    } catch (error) {
      setProblem(error instanceof Error ? error : new Error(String(error)));
    } finally {
      setWaiting((all) => all.filter((one) => one !== what));
      move(null);
    }
  };
  /** Replace a step; what was decided behind one that moves the picture is decided anew. */
  const change = (at: number, step: Step | null) => {
    const before = stepsOf(kept)[at];
    void run({ does: "change" }, async (now) => {
      const all = stepsOf(now);
      if (!before || all[at]?.kind !== before.kind) return null;
      const made = step && carried(before, step, all[at]);
      const next = all.toSpliced(at, 1, ...(made ? [made] : []));
      const moves = before.kind !== "spots";
      const isBack = made?.kind === "variant" && made.is_on && !all[at].is_on;
      return moves ? anew(now, next, made && !isBack ? at + 1 : at) : next;
    });
  };
  /** Another picture out of pieces: a new step, or the one that is there with another seed. */
  const vary = (at: number, asked: Vary, then?: () => void) => {
    const make: MakeSteps = async (now) =>
      stepsOf(now).toSpliced(at, 1, await piecesFor(now, at, asked));
    void run({ does: "decide" }, make, then);
  };
  const repeat = (at: number, asked: RepeatAsked, then?: () => void) => {
    const turn = ++repeats.current;
    const isLatest = () => turn === repeats.current; // else it was asked again meanwhile
    const make: MakeSteps = async (now) => {
      if (!isLatest()) return null;
      const made = stepsOf(now).toSpliced(at, 1, await repeatFor(now, at, asked));
      return isLatest() ? anew(now, made, at + 1) : null;
    };
    void run({ does: "repeat", at, asked }, make, then);
  };
  /** Repeat by the picture's own pattern, turned straight first where it has to be. */
  const follow = (at: number) => {
    let here = at;
    const make: MakeSteps = async (now) => {
      const next = stepsOf(await settled(api.POST("/api/patterns", { body: { recipe: now, at } })));
      here = Math.max(at, at + next.length - stepsOf(now).length);
      return anew(now, next, here + 1);
    };
    void run({ does: "decide" }, make, () => {
      open(here);
      showPrep("result");
    });
  };
  /** What steps make of the picture while a control moves: shown and not kept. */
  const tryOut = async (make: () => Step[] | Promise<Step[]>) => {
    const turn = ++tried.current;
    const body = { recipe, steps: await make() };
    const { data } = await api.POST("/api/prepared", { body });
    if (data && turn === tried.current) move(data);
  };
  const spot = (at: number, placed: Placed) => {
    const make: MakeSteps = async (now) => {
      const all = stepsOf(now);
      const step = all[at];
      if (step?.kind !== "spots") return null;
      const places = await placesFor(now, at, placed);
      return all.with(at, { ...step, spots: [...step.spots, places[0]] });
    };
    void run({ does: "spot", at, spot: placed }, make);
  };
  /** The next best place to fill a spot from, and after the last the first again. */
  const another = (at: number, which: number) => {
    const make: MakeSteps = async (now) => {
      const all = stepsOf(now);
      const step = all[at];
      if (step?.kind !== "spots" || !step.spots[which]) return null;
      const { [which]: mine } = step.spots;
      const without = all.with(at, { ...step, spots: step.spots.toSpliced(which, 1) });
      const places = await placesFor(withSteps(now, without), at, mine);
      const here = places.findIndex(
        (p) => Math.hypot(p.from_x - mine.from_x, p.from_y - mine.from_y) < 0.004,
      );
      const next = places[(here + 1) % places.length];
      return all.with(at, { ...step, spots: step.spots.with(which, next) });
    };
    void run({ does: "change" }, make);
  };
  const add = (step: Step, at = steps.length) => {
    const make: MakeSteps = async (now) => stepsOf(now).toSpliced(at, 0, step);
    void run({ does: "change" }, make, () => open(at));
  };
  return {
    steps,
    change,
    repeat,
    vary,
    follow,
    /** The quick line while a control moves. */
    tryRepeat: (at: number, asked: RepeatAsked) =>
      void tryOut(async () => steps.toSpliced(at, 1, await repeatFor(recipe, at, asked, true))),
    tryStep: (at: number, step: Step) => void tryOut(() => steps.with(at, step)),
    spot,
    another,
    add,
    /** What a repeat is asked for: the latest, also while its line is still looked for. */
    askedAt: (at: number, step: StepOf<"repeat">) =>
      waiting
        .flatMap((one) => (one.does === "repeat" && one.at === at ? [one.asked] : []))
        .at(-1) ?? askedOf(step),
    /** Spots of a step that are still looked at. */
    spotsAt: (at: number) =>
      waiting.flatMap((one) => (one.does === "spot" && one.at === at ? [one.spot] : [])),
    isDeciding: waiting.some(({ does }) => does === "repeat" || does === "decide"),
    isBusy: waiting.length > 0,
    problem,
  };
}
export type Preparing = ReturnType<typeof useSteps>;
