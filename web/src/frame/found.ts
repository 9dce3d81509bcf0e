import type { TextureSet } from "../api/client";
import type { Assayed } from "../api/queries";
import { GRADE_ORDER } from "../parts/grades";

/** Findings in the order they are spoken of: of the sets in hand first, the gravest first of each. */
export function inOrder(rows: Assayed[], inHand: string[]): Assayed[] {
  const weight = ({ set, finding }: Assayed) =>
    (inHand.includes(set.id) ? 0 : GRADE_ORDER.length) + GRADE_ORDER.indexOf(finding.grade);
  return rows
    .map((row, k) => ({ row, k }))
    .sort((a, b) => weight(a.row) - weight(b.row) || a.k - b.k)
    .map(({ row }) => row);
}

/**
 * The one sentence of the strip: what is to be done about the sets in hand, or that it is nothing;
 * where none is in hand, about any. Notes wait until they are asked for.
 */
export function spokenFirst(
  rows: Assayed[],
  sets: TextureSet[],
  inHand: string[],
  isLooking = false,
): string | null {
  const own = sets.filter(({ id }) => inHand.includes(id));
  const grave = inOrder(rows, inHand).filter(({ finding }) => finding.grade !== "note");
  const first = grave.find(({ set }) => !own.length || inHand.includes(set.id));
  if (first) return `${first.set.name}: ${first.finding.text}`;
  if (!own.length || isLooking) return null;
  return own.length === 1
    ? `${own[0].name}: nothing to check`
    : "The sets in hand: nothing to check";
}
