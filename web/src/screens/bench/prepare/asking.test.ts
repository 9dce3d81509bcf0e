import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { api, type Recipe } from "../../../api/client";
import { anew } from "./asking";
import type { Step } from "./steps";

const RECIPE = { facts: { width: 8, height: 8, edges: {} }, frame: null };
const VARIANT = { kind: "variant", is_on: true, seed: 3, cells: 4, pieces: { rows: 1 } };
const REPEAT = { kind: "repeat", is_on: true, x: {}, y: {}, sides: [null, null] };

describe("what was decided by looking at the picture", () => {
  let edge = "wrap";
  const asked = vi.fn();
  const decided = (...steps: object[]) =>
    anew(RECIPE as unknown as Recipe, steps as unknown as Step[], 0);

  beforeEach(() => {
    asked.mockReset();
    edge = "wrap";
    const answers: Record<string, () => object> = {
      "/api/repeats": () => ({ ...REPEAT, fit: 1 }),
      "/api/variants": () => ({ ...VARIANT, pieces: { rows: 2 } }),
      "/api/prepared": () => ({ facts: { edges: { x: "wrap", y: edge } } }),
    };
    vi.spyOn(api, "POST").mockImplementation((async (path: string, told: { body: object }) => {
      asked(path, told.body);
      return { data: answers[path](), response: new Response() };
    }) as never);
  });
  afterEach(() => {
    vi.restoreAllMocks();
  });

  it("is decided anew in order, each after those before it", async () => {
    const made = await decided({ kind: "turn", is_on: true }, REPEAT, VARIANT);
    expect(made[1]).toMatchObject({ kind: "repeat", fit: 1 });
    expect(made[2]).toMatchObject({ kind: "variant", pieces: { rows: 2 } });
    const [, body] = asked.mock.calls.find(([path]) => path === "/api/variants") ?? [];
    expect(body).toMatchObject({ at: 2, seed: 3, cells: 4, recipe: { frame: { steps: made } } });
  });

  it("stays where it is off or was not decided", async () => {
    const steps = [
      { ...REPEAT, is_on: false },
      { ...VARIANT, pieces: null },
    ];
    expect(await decided(...steps)).toEqual(steps);
    expect(asked).not.toHaveBeenCalled();
  });

  it("is switched off where pieces would be laid over borders that end", async () => {
    edge = "mirror";
    expect(await decided(VARIANT)).toEqual([{ ...VARIANT, is_on: false }]);
  });
});
