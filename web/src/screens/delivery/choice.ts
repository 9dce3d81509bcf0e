import { useState } from "react";
import type { Narrowing } from "../../api/queries";

/**
 * What goes where: sets and targets by key, a smaller size, and files that are left out by hand.
 */
export type Chosen = { sets: string[]; targets: string[] } & Narrowing;

const NOTHING: Chosen = { sets: [], targets: [], size: null, unwanted: [] };
const keyOf = (project: string) => `delivery ${project}`;

/** The choice of a project, as it was left last time in this browser. */
export function useChosen(project: string): [Chosen, (change: (chosen: Chosen) => Chosen) => void] {
  const [chosen, setChosen] = useState(() => recalled(project));
  const [of, setOf] = useState(project);
  if (of !== project) {
    // another project was gone to
    setOf(project);
    setChosen(recalled(project));
  }
  const change = (next: (chosen: Chosen) => Chosen) =>
    setChosen((now) => {
      const made = next(now);
      localStorage.setItem(keyOf(project), JSON.stringify(made));
      return made;
    });
  return [chosen, change];
}

function recalled(project: string): Chosen {
  try {
    return {
      ...NOTHING,
      ...(JSON.parse(localStorage.getItem(keyOf(project)) ?? "{}") as Partial<Chosen>),
    };
  } catch {
    return NOTHING;
  }
}

/** The list with a key that was not in it, or without it. */
export const toggled = (list: string[], key: string): string[] =>
  list.includes(key) ? list.filter((one) => one !== key) : [...list, key];
