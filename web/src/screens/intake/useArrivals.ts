import { useRef } from "react";
import type { FileLook } from "../../api/client";
import type { Into } from "../../line/incoming";
import { errorOf } from "../../parts/failures";
import { corrected, keyOf, withLooks } from "./rows";
import type { useRows } from "./useRows";

/** Looks as they arrive, one by one, and the table that they are put into together. */
export function useArrivals(
  { named, setRows }: Pick<ReturnType<typeof useRows>, "named" | "setRows">,
  onProblem: (said: string) => void,
) {
  const arrived = useRef<FileLook[]>([]);
  return {
    put: (looks: FileLook[]) => arrived.current.push(...looks),
    /** Looks that are on their way, and what goes wrong with them. */
    bring: async (looks: Promise<FileLook[]>) => {
      try {
        arrived.current.push(...(await looks));
      } catch (problem) {
        onProblem(errorOf(problem).message);
      }
    },
    /** Into the table, under the name of the set that they were dropped onto. */
    flush: (set: Into | null = null) => {
      const looks = arrived.current.splice(0).map(named);
      if (!looks.length) return;
      setRows((now) => {
        const next = withLooks(now, looks);
        if (!set) return next;
        const own = new Set(looks.map(keyOf));
        return next.map((row) =>
          own.has(keyOf(row.look)) ? corrected(row, { set_name: set.name }) : row,
        );
      });
    },
  };
}
