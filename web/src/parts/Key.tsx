import { keyFor, shownKey, useKeys, type Where } from "./keys";

type KeyProps = { at: Where; is: string; className?: string };

/** The key that does what `is` does by itself, as this person has it. */
export function Key({ at, is, className }: KeyProps) {
  return <kbd className={className}>{useKeyName(at, is)}</kbd>;
}

/** The same as a word, for a sentence. */
export const useKeyName = (at: Where, is: string): string =>
  useKeys(({ chosen }) => shownKey(keyFor(chosen, at, is)));
