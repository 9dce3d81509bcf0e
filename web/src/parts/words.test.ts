import { expect, test } from "vitest";
import { meaning, WORDS } from "./words";

const texts = Object.values(
  import.meta.glob<string>("../**/*.tsx", { query: "?raw", import: "default", eager: true }),
);

test("every word that help asks for is in the glossary, in one sentence", () => {
  const asked = texts.flatMap((text) => [...text.matchAll(/meaning\("([^"]+)"\)/g)]);
  expect(asked.length).toBeGreaterThan(5);
  for (const [, term] of asked) expect(meaning(term)).toMatch(/^[A-Z].+\.$/);
  expect(() => meaning("quux")).toThrow("docs/words.md");
});

test("no word stands twice", () => {
  expect(new Set(WORDS.map(([term]) => term)).size).toBe(WORDS.length);
});
