import { create } from "zustand";
import type { Dropped } from "./dropped";

/** Files on their way to Intake, and the set that they were dropped on, if on one. */
export type Incoming = {
  project: string;
  files: Dropped[];
  into: Into | null;
};
export type Into = { id: string; name: string };

/** What was dropped or pasted anywhere in the window and Intake has not begun to read yet. */
export const useIncoming = create<{
  incoming: Incoming[];
  give: (one: Incoming) => void;
  take: (project: string) => Incoming[];
}>((set, get) => ({
  incoming: [],
  give: (one) => set(({ incoming }) => ({ incoming: [...incoming, one] })),
  take: (project) => {
    const own = get().incoming.filter((one) => one.project === project);
    if (own.length)
      set(({ incoming }) => ({ incoming: incoming.filter((one) => one.project !== project) }));
    return own;
  },
}));
