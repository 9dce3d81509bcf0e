import { useEffect } from "react";
import { create } from "zustand";
import { useStable } from "../parts/useStable";

/** The sets that are ticked or selected where the person is. */
export const useFront = create<{ ids: string[] }>(() => ({ ids: [] }));

/** Says, for as long as the place is open, which sets are in front of the person. */
export function useInFront(now: string[]) {
  const ids = useStable(now);
  useEffect(() => {
    useFront.setState({ ids });
    return () => useFront.setState({ ids: [] });
  }, [ids]);
}
