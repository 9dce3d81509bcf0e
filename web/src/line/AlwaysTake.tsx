import { isOfFolder } from "../api/assays";
import type { Finding } from "../api/client";
import { useKeepsUp } from "./keepsUp";

/** Beside the press that takes newer files of a linked folder: take them by itself from now on. */
export function AlwaysTake({ project, finding }: { project: string; finding: Finding }) {
  const { takesNewer, change } = useKeepsUp(project);
  if (!isOfFolder(finding) || takesNewer) return null;
  return (
    <button type="button" className="button" onClick={() => change({ takes_newer: true })}>
      Always take them
    </button>
  );
}
