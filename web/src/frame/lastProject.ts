import { useEffect } from "react";
import type { Project } from "../api/client";

const KEY = "last project";

/** Remember in this browser which project was open. */
export const useLastProject = (project: string) =>
  useEffect(() => {
    localStorage.setItem(KEY, project);
  }, [project]);

/** The project to open: the one of last time, else the oldest; those put away only where there is no other. */
export function firstOf(projects: Project[]): Project {
  const shown = projects.filter(({ is_away }) => !is_away);
  const last = shown.find(({ name }) => name === localStorage.getItem(KEY));
  return last ?? shown[0] ?? projects[0];
}
