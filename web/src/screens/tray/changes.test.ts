import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { api, type TextureSet } from "../../api/client";
import type { SavedSettings } from "../../api/settings";
import { changesOf, SAVED } from "./changes";
import type { Change } from "./useMany";

const asked = vi.fn();
/** What the server would answer, whoever asks it: modules are shared, so that none can be put in another's place. */
const answering = (method: "GET" | "PUT" | "POST") =>
  vi.spyOn(api, method).mockImplementation((async (path: string, told: object) => ({
    data: await asked(method, path, told),
    response: new Response(),
  })) as never);
const SETTINGS = "/api/sets/{set_id}/settings";

const set = (id: string, name: string, given: string[] = []) =>
  ({
    id,
    name,
    head: 3,
    recipe: { facts: { sampling: "smooth", keep_shine: false, origin: "" } },
    masters: given.map((key) => ({ key, origin: "given" })),
  }) as unknown as TextureSet;
const FELT = set("1", "felt", ["roughness"]);
const LACE = set("2", "lace");

type Run = { sets: string[]; said: string; change: Change };

function begun(saved: SavedSettings[] = []): [ReturnType<typeof changesOf>, Run] {
  const run = {} as Run;
  const changes = changesOf({
    sets: [FELT, LACE],
    all: [FELT, LACE, set("3", "gong")],
    saved,
    run: (async (sets: TextureSet[], said: string, change: Change) => {
      Object.assign(run, { sets: sets.map(({ id }) => id), said, change });
    }) as never,
  });
  return [changes, run];
}

describe("what is done to all selected sets", () => {
  beforeEach(() => {
    asked.mockReset();
    asked.mockResolvedValue({ head: 4 });
    answering("GET");
    answering("PUT");
    answering("POST");
  });
  afterEach(() => {
    vi.restoreAllMocks();
  });

  it("gives one value to those without a file of that map, and says how many keep theirs", () => {
    const [changes, run] = begun();
    void changes.handleValue("roughness", "Roughness", 0.4);
    expect(run.sets).toEqual(["2"]);
    expect(run.said).toBe("given one roughness of 0.4, 1 keeps the one it came with");
    void changes.handleValue("metallic", "Metallic", 1);
    expect([run.sets, run.said]).toEqual([["1", "2"], "given one metallic of 1"]);
  });

  it("makes them like another set, whose settings are asked for once, and never like itself", async () => {
    const [changes, run] = begun();
    void changes.handleLike("1");
    expect([run.sets, run.said]).toEqual([["2"], "made like felt"]);
    await run.change(LACE);
    await run.change(LACE);
    const reads = asked.mock.calls.filter(([method]) => method === "GET");
    expect(reads).toEqual([["GET", SETTINGS, { params: { path: { set_id: "1" } } }]]);
  });

  it("makes them by settings that were saved under a name", async () => {
    const one = {
      name: "Wet stone",
      settings: { schema: 1, rise: 1, masters: {} },
    } as SavedSettings;
    const [changes, run] = begun([one]);
    void changes.handleLike(`${SAVED}Wet stone`);
    expect(run.said).toBe("made like Wet stone");
    await run.change(FELT);
    const body = { expects: 3, settings: one.settings };
    expect(asked).toHaveBeenCalledWith("POST", SETTINGS, {
      params: { path: { set_id: "1" } },
      body,
    });
  });

  it("is taken back by undoing the step that it made", async () => {
    const [changes, run] = begun();
    void changes.handleMove({ kind: "turn", quarters: 1 } as never);
    expect(run.said).toBe("rotated");
    const back = await run.change(FELT);
    await back();
    const [, path, told] = asked.mock.calls.at(-1) ?? [];
    expect(path).toBe("/api/sets/{set_id}/step");
    expect(told.body).toEqual({ expects: 4, step: "undo" });
  });

  it("brings them to a size as each is sampled", async () => {
    const [changes, run] = begun();
    void changes.handleSize(512);
    expect(run.said).toBe("brought to 512 px");
    await run.change(LACE);
    const [, path, told] = asked.mock.calls[0];
    expect(path).toBe("/api/sets/{set_id}/size");
    expect(told.body.size).toEqual({ longer: 512, sampling: "smooth", keep_shine: false });
  });

  it("renames those whose name changes, and gives the old name back", async () => {
    const [changes, run] = begun();
    void changes.handleNames((name) => name.replace("felt", "tweed"));
    expect(run.sets).toEqual(["1"]);
    const back = await run.change(FELT);
    await back();
    expect(asked.mock.calls.map(([, , told]) => told.body.name)).toEqual(["tweed", "felt"]);
  });

  it("makes a copy of each, and puts the copies away again", async () => {
    const del = vi.spyOn(api, "DELETE").mockResolvedValue({ response: new Response() } as never);
    const [changes, run] = begun();
    void changes.handleCopies();
    expect([run.sets, run.said]).toEqual([["1", "2"], "copied"]);
    asked.mockResolvedValue({ id: "9" });
    const back = await run.change(LACE);
    await back();
    expect(asked.mock.calls[0].slice(0, 2)).toEqual(["POST", "/api/sets/{set_id}/copies"]);
    expect(del.mock.calls[0][1]).toMatchObject({ params: { path: { set_id: "9" } } });
    const keeps = { takes_newer: false, delivers_changes: false };
    const winter = { name: "winter", title: "Winter", usual: [], is_away: false, ...keeps };
    void changes.handleCopies(winter);
    expect(run.said).toBe("copied into Winter");
    await run.change(LACE);
    expect(asked.mock.calls.at(-1)?.[2]).toMatchObject({ body: { project: "winter" } });
  });
});
