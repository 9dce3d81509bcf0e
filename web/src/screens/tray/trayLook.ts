import { useState } from "react";
import type { Filter, Sort } from "./sieve";

/** What a tray is narrowed down to, and in which order it lies. */
export type TrayLook = { sought: string; filters: Filter[]; sort: Sort };

const WHOLE: TrayLook = { sought: "", filters: [], sort: "taken" };
const keyOf = (project: string) => `tray ${project}`;

/**
 * The look of a project's tray, which is there again after a visit to the bench, and after a reload.
 * Where sets were taken in since, nothing hides them.
 */
export function useTrayLook(
  project: string,
  count: number,
): [TrayLook, (told: Partial<TrayLook>) => void] {
  const [look, setLook] = useState(() => kept(project, count));
  const change = (told: Partial<TrayLook>) =>
    setLook((now) => {
      const made = { ...now, ...told };
      sessionStorage.setItem(keyOf(project), JSON.stringify({ ...made, count }));
      return made;
    });
  return [look, change];
}

function kept(project: string, count: number): TrayLook {
  try {
    const { count: before, ...look } = JSON.parse(sessionStorage.getItem(keyOf(project)) ?? "{}");
    return before >= count ? { ...WHOLE, ...look } : { ...WHOLE, sort: look.sort ?? WHOLE.sort };
  } catch {
    return WHOLE; // what was kept by another program is not asked
  }
}
