import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactElement } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { MemoryRouter } from "react-router";
import { Hints } from "./parts/Hint";

/** What a server has answered before a part is drawn, by query key. */
type Answers = [key: readonly unknown[], answer: unknown][];

/** For tests: a part of the screen as it is first drawn, its words and its markup. */
export function drawn(part: ReactElement, answers: Answers = []) {
  const queries = new QueryClient();
  for (const [key, answer] of answers) queries.setQueryData(key, answer);
  const html = renderToStaticMarkup(
    <QueryClientProvider client={queries}>
      <MemoryRouter>
        <Hints>{part}</Hints>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return { html, text: wordsOf(html) };
}

const ENTITIES: Record<string, string> = {
  "&amp;": "&",
  "&lt;": "<",
  "&gt;": ">",
  "&quot;": '"',
  "&#x27;": "'",
};

/** What is read on it, with one blank between pieces. */
const wordsOf = (html: string): string =>
  html
    .replace(/<[^>]*>/g, " ")
    .replace(/&[#\w]+;/g, (entity) => ENTITIES[entity] ?? entity)
    .replace(/\s+/g, " ")
    .trim();

/** The tag that has a label, as it is written; empty where none has it. */
export const tagOf = (html: string, label: string): string =>
  html.match(new RegExp(`<[^>]*aria-label="${label}"[^>]*>`))?.[0] ?? "";
