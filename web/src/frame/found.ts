import type { Assayed } from "../api/assays";
import type { Finding, TextureSet } from "../api/client";
import { GRADE_ORDER } from "../parts/grades";

/**
 * Findings in the order they are spoken of: of the sets in front first, the gravest first of each.
 */
export function inOrder(rows: Assayed[], inFront: TextureSet[]): Assayed[] {
  const front = new Set(inFront.map(({ id }) => id));
  const weight = ({ set, finding }: Assayed) =>
    (front.has(set.id) ? 0 : GRADE_ORDER.length) + GRADE_ORDER.indexOf(finding.grade);
  return rows.toSorted((a, b) => weight(a) - weight(b));
}

/**
 * The one sentence of the strip: what is to be done about the sets in front, or that it is nothing,
 * or not known; where none is, about any. Notes wait until they are asked for.
 */
export function spokenFirst(
  rows: Assayed[],
  inFront: TextureSet[],
  isLooking = false,
  unseen: TextureSet[] = [],
): string | null {
  const isMeant = (set: { id: string }) =>
    !inFront.length || inFront.some(({ id }) => id === set.id);
  const grave = inOrder(rows, inFront).filter(({ finding }) => finding.grade !== "note");
  const first = grave.find(({ set }) => isMeant(set));
  if (first) return `${first.set.name}: ${first.finding.text}`;
  const unknown = unseen.find(isMeant);
  if (unknown) return `${unknown.name} could not be looked at`;
  if (!inFront.length || isLooking) return null;
  const [one, ...others] = inFront;
  return others.length
    ? `${inFront.length} sets: nothing to check in their maps`
    : `${one.name}: nothing to check in its maps`;
}

/** What was found on files that are not taken in yet, the gravest first; and the sentence of the strip, if it is no note. */
export function ofTable(found: Finding[]): { listed: Finding[]; first: string | null } {
  const listed = GRADE_ORDER.flatMap((grade) => found.filter((one) => one.grade === grade));
  return { listed, first: listed.find(({ grade }) => grade !== "note")?.text ?? null };
}

/** What is said where nothing was found on the sets of a project. */
export const nothingFound = (count: number, isLooking: boolean): string => {
  if (count === 0) return "This project has no set yet.";
  return isLooking ? "Looking at every set…" : "Nothing found: every set can go to every target.";
};
