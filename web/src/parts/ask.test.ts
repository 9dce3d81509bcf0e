import { afterEach, expect, test, vi } from "vitest";
import { ask, useAway } from "./ask";
import { NoAnswer } from "./failures";

afterEach(() => {
  vi.unstubAllGlobals();
  useAway.setState({ isAway: false });
});

const answers = (answer: () => Response) => vi.stubGlobal("fetch", async () => answer());
const nobody = () => {
  throw new TypeError("Failed to fetch");
};

test("no answer is said in words until one comes", async () => {
  answers(nobody);
  await expect(ask("/api/projects")).rejects.toThrow(NoAnswer);
  expect(useAway.getState().isAway).toBe(true);
  answers(() => new Response("no", { status: 404 }));
  expect((await ask("/api/projects")).status).toBe(404);
  expect(useAway.getState().isAway).toBe(false);
});

test("what was given up is not the server's doing", async () => {
  answers(nobody);
  const one = new AbortController();
  one.abort();
  await expect(ask("/api/previews", { signal: one.signal })).rejects.toThrow(TypeError);
  expect(useAway.getState().isAway).toBe(false);
});
