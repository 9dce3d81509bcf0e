import { useState } from "react";
import type { PlanRequest } from "../../api/client";

/** What goes where, and how: what is asked of the server. */
export type Chosen = Required<PlanRequest> & { size: number | null };

export const NOTHING: Chosen = {
  sets: [],
  targets: [],
  size: null,
  unwanted: [],
  into: "own",
  answers: [],
  remove: [],
};

type Kept = { basis: string; chosen: Chosen };
const keyOf = (project: string) => `delivery ${project}`;

/**
 * The choice of a project. It begins with what is suggested, and stays as a person left it for as
 * long as the same is suggested; nothing of an old job is left ticked.
 */
export function useChosen(
  project: string,
  suggested: Pick<Chosen, "sets" | "targets">,
): [Chosen, (change: (chosen: Chosen) => Chosen) => void] {
  const [kept, setKept] = useState<Kept>(() => begun(project, suggested));
  const change = (next: (chosen: Chosen) => Chosen) =>
    setKept((now) => {
      const made = { ...now, chosen: next(now.chosen) };
      sessionStorage.setItem(keyOf(project), JSON.stringify(made));
      return made;
    });
  return [kept.chosen, change];
}

function begun(project: string, suggested: Pick<Chosen, "sets" | "targets">): Kept {
  const basis = JSON.stringify(suggested);
  try {
    const kept: Kept | null = JSON.parse(sessionStorage.getItem(keyOf(project)) ?? "null");
    if (kept?.basis === basis) return { basis, chosen: { ...NOTHING, ...kept.chosen } };
  } catch {
    // what was kept by another program is not asked
  }
  return { basis, chosen: { ...NOTHING, ...suggested } };
}

/** The list with a key that was not in it, or without it. */
export const toggled = (list: string[], key: string): string[] =>
  list.includes(key) ? list.filter((one) => one !== key) : [...list, key];
