import { afterEach, describe, expect, it, vi } from "vitest";
import { Refusal } from "../parts/failures";
import { type FileLook, keepFile, settled, withLayers } from "./client";

type Answers = Record<string, unknown>;
const asked: string[] = [];

/** A server that answers paths that begin so, and notes what was asked. */
function serve(answers: Answers, status = 200) {
  vi.stubGlobal("fetch", async (input: string | Request) => {
    const path = typeof input === "string" ? input : new URL(input.url).pathname;
    asked.push(path);
    const found = Object.entries(answers).find(([start]) => path.startsWith(start));
    return new Response(JSON.stringify(found?.[1] ?? null), {
      status: found ? status : 404,
      headers: { "content-type": "application/json" },
    });
  });
}

const look = (name: string, said: Partial<FileLook> = {}) =>
  ({ name, sha256: "ab", is_by_layers: false, ...said }) as FileLook;

describe("what the server answers", () => {
  afterEach(() => {
    vi.unstubAllGlobals();
    asked.length = 0;
  });

  it("is given on, and a refusal is thrown with its sentence and its number", async () => {
    const response = new Response(null, { status: 409 });
    expect(await settled(Promise.resolve({ data: 7, response }))).toBe(7);
    const refused = settled(Promise.resolve({ error: { detail: "It moved." }, response }));
    await expect(refused).rejects.toThrow(new Refusal("It moved.", 409));
    const silent = settled(Promise.resolve({ error: {}, response }));
    await expect(silent).rejects.toThrow("The server gave no reason.");
  });

  it("is asked of a file with the folder it lay in, and of a zip as a whole", async () => {
    serve({
      "/api/originals": look("été.png"),
      "/api/archives": { files: [look("in.png")], meshes: [], problems: ["one was broken"] },
    });
    const alone = await keepFile(new File(["x"], "été.png"), "silk", "Loom");
    expect(alone.files.map(({ name }) => name)).toEqual(["été.png"]);
    expect(new URLSearchParams(asked[0].split("?")[1])).toEqual(
      new URLSearchParams({ name: "été.png", folder: "silk", profile: "Loom" }),
    );
    const zipped = await keepFile(new File(["x"], "Set.ZIP"), "silk", null);
    expect(zipped.problems).toEqual(["one was broken"]);
    expect(asked[1]).toBe("/api/archives?name=Set.ZIP");
  });

  it("is thrown for a file that it will not have", async () => {
    serve({ "/api/originals": { detail: "note.txt is no picture." } }, 415);
    const kept = keepFile(new File(["x"], "note.txt"), "", null);
    await expect(kept).rejects.toThrow("note.txt is no picture.");
  });

  it("is followed by the layers of what is meant by layer, right behind it", async () => {
    vi.stubGlobal("location", new URL("http://localhost/"));
    const found = await withLayers([look("flat.png"), look("also.png")], "", null);
    expect(found.map(({ name }) => name)).toEqual(["flat.png", "also.png"]);
    expect(asked).toEqual([]); // nobody asks for layers where there are none
  });
});
