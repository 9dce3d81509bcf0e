import type { Plan } from "../../api/client";
import { countOf } from "../../line/counted";

export const MOST_PLANS = 30; // more tables than that hold up every key, and nobody reads them

const needsWord = (plan: Plan): boolean => {
  const { waits, asks } = countOf([plan]);
  return waits.length > 0 || asks > 0;
};

/** Of hundreds of plans the first ones, and whichever waits or asks. */
export const firstPlans = (plans: Plan[]): Plan[] =>
  plans.filter((plan, k) => k < MOST_PLANS || needsWord(plan));

const many = (count: number, one: string): string => `${count} ${one}${count === 1 ? "" : "s"}`;

/** What is being worked out: "Working out the files of 300 sets for 3 targets…". */
export const workingOut = (sets: number, targets: number): string =>
  `Working out the files of ${many(sets, "set")} for ${many(targets, "target")}…`;
