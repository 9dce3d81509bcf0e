import page from "../../../docs/words.md?raw";

/** Term and meaning, from the glossary's own page: a table of two columns. */
export const WORDS: readonly (readonly [string, string])[] = page
  .split("\n")
  .filter((line) => line.startsWith("| "))
  .slice(1) // the head
  .map((line) => line.split("|").slice(1, 3))
  .map(([term, means]) => [term.trim(), means.trim()] as const);

/** What a word of the trade means, as help says it. @throws where the glossary has no such word. */
export function meaning(term: string): string {
  const found = WORDS.find(([one]) => one === term);
  if (!found) throw new Error(`docs/words.md has no “${term}”`);
  return found[1];
}
