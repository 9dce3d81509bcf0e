import { useEffect } from "react";
import { create } from "zustand";
import type { Finding } from "../api/client";

/** What was found on the files that lie on Intake's table, while a person looks at it. */
export const useOnTable = create<{ found: Finding[] }>(() => ({ found: [] }));

/** Says what was found on them, until the table is left. */
export function useFoundOnTable(found: Finding[]) {
  useEffect(() => {
    useOnTable.setState({ found });
    return () => useOnTable.setState({ found: [] });
  }, [found]);
}
