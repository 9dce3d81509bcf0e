import { describe, expect, it, vi } from "vitest";
import { inTurns } from "./turns";

/** Asks that are answered by hand, and how many are under way. */
function desk() {
  const begun: string[] = [];
  const ends = new Map<string, () => void>();
  const ask = (name: string) => () => {
    begun.push(name);
    return new Promise<string>((resolve) => ends.set(name, () => resolve(name)));
  };
  const end = (name: string) => ends.get(name)?.();
  return { begun, ask, end };
}

describe("asks in turns", () => {
  it("are never more at once than may be, and all are answered in order", async () => {
    const turns = inTurns(2);
    const { begun, ask, end } = desk();
    const names = ["a", "b", "c", "d", "e"];
    const answers = Promise.all(names.map((name) => turns.ask(name, ask(name))));
    for (const [k, name] of names.entries()) {
      await expect.poll(() => begun).toEqual(names.slice(0, k + 2));
      end(name);
    }
    expect(await answers).toEqual(names);
  });

  it("let one that comes between wait behind those that waited before", async () => {
    const turns = inTurns(1);
    const { begun, ask, end } = desk();
    void turns.ask("a", ask("a"));
    void turns.ask("b", ask("b"));
    end("a");
    void turns.ask("c", ask("c"));
    await expect.poll(() => begun).toEqual(["a", "b"]);
    end("b");
    await expect.poll(() => begun).toEqual(["a", "b", "c"]);
  });

  it("let one go that is looked at, and know the others' turns afterwards", async () => {
    const turns = inTurns(1);
    const { begun, ask, end } = desk();
    for (const name of ["a", "b", "c"]) void turns.ask(name, ask(name));
    turns.hurry("c");
    turns.hurry("nobody");
    await expect.poll(() => begun).toEqual(["a", "c"]);
    end("c");
    await expect.poll(() => begun).toEqual(["a", "c", "b"]);
  });

  it("begin none while they are held, and all at the latest when the time is over", async () => {
    vi.useFakeTimers();
    const turns = inTurns(2);
    const { begun, ask, end } = desk();
    const letGo = turns.hold(1000);
    void turns.ask("a", ask("a"));
    await vi.advanceTimersByTimeAsync(900);
    expect(begun).toEqual([]);
    letGo();
    await vi.advanceTimersByTimeAsync(0);
    expect(begun).toEqual(["a"]);
    end("a");
    turns.hold(1000);
    void turns.ask("b", ask("b"));
    await vi.advanceTimersByTimeAsync(999);
    expect(begun).toEqual(["a"]);
    await vi.advanceTimersByTimeAsync(1);
    expect(begun).toEqual(["a", "b"]);
    vi.useRealTimers();
  });

  it("go on after one that failed", async () => {
    const turns = inTurns(1);
    const failed = turns.ask("a", () => Promise.reject(new Error("gone")));
    const after = turns.ask("b", () => Promise.resolve("here"));
    await expect(failed).rejects.toThrow("gone");
    expect(await after).toBe("here");
  });
});
