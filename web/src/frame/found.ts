import type { TextureSet } from "../api/client";
import type { Assayed } from "../api/queries";
import { GRADE_ORDER } from "../parts/grades";

/**
 * Findings in the order they are spoken of: of the set in hand first, the gravest first of each.
 */
export function inOrder(rows: Assayed[], inHand: string | undefined): Assayed[] {
  const weight = ({ set, finding }: Assayed) =>
    (set.id === inHand ? 0 : GRADE_ORDER.length) + GRADE_ORDER.indexOf(finding.grade);
  return rows.toSorted((a, b) => weight(a) - weight(b));
}

/**
 * The one sentence of the strip: what is to be done about the set in hand, or that it is nothing;
 * where none is in hand, about any. Notes wait until they are asked for.
 */
export function spokenFirst(
  rows: Assayed[],
  inHand: TextureSet | undefined,
  isLooking = false,
): string | null {
  const grave = inOrder(rows, inHand?.id).filter(({ finding }) => finding.grade !== "note");
  const first = grave.find(({ set }) => !inHand || set.id === inHand.id);
  if (first) return `${first.set.name}: ${first.finding.text}`;
  return inHand && !isLooking ? `${inHand.name}: nothing to check in its maps` : null;
}
