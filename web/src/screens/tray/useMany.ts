import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { TextureSet } from "../../api/client";
import { errorOf } from "../../parts/failures";

/** Changes one set, and answers what takes that back. */
export type Change = (set: TextureSet) => Promise<() => Promise<unknown>>;

type Said = { text: string; problems: string[]; undo: (() => Promise<unknown>)[] };

/**
 * The same done to many sets, one after the other; what fails holds nothing up, and one press takes
 * all of it back.
 */
export function useMany(project: string) {
  const queries = useQueryClient();
  const [left, setLeft] = useState(0);
  const [said, setSaid] = useState<Said | null>(null);
  const refresh = () => queries.invalidateQueries({ queryKey: ["sets", project] });
  const each = async <T>(rows: T[], one: (row: T) => Promise<void>) => {
    for (const [k, row] of rows.entries()) {
      setLeft(rows.length - k);
      await one(row);
    }
    setLeft(0);
    await refresh();
  };
  const run = async (sets: TextureSet[], did: string, change: Change) => {
    const [problems, undo]: [string[], Said["undo"]] = [[], []];
    await each(sets, async (set) => {
      try {
        undo.push(await change(set));
      } catch (problem) {
        problems.push(`${set.name}: ${errorOf(problem).message}`);
      }
    });
    const count = undo.length === 1 ? "1 set" : `${undo.length} sets`;
    setSaid({ text: `${count} ${did}.`, problems, undo });
  };
  const takeBack = async () => {
    if (!said) return;
    const problems: string[] = [];
    await each([...said.undo].reverse(), async (undo) => {
      await undo().catch((problem: Error) => problems.push(problem.message));
    });
    setSaid({ text: "Taken back.", problems, undo: [] });
  };
  return { run, takeBack, left, said };
}
