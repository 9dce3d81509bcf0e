import { create } from "zustand";
import { NoAnswer } from "./failures";

/** Whether the server was away when it was asked last. */
export const useAway = create<{ isAway: boolean }>(() => ({ isAway: false }));

/**
 * Ask the server, as `fetch` does. Where no answer comes at all that is said in words, and to whoever
 * watches; the next answer takes it back.
 */
export async function ask(address: RequestInfo | URL, told?: RequestInit): Promise<Response> {
  try {
    const response = await fetch(address, told);
    if (useAway.getState().isAway) useAway.setState({ isAway: false });
    return response;
  } catch (problem) {
    const isGivenUp =
      told?.signal?.aborted || (address instanceof Request && address.signal.aborted);
    if (isGivenUp) throw problem;
    useAway.setState({ isAway: true });
    throw new NoAnswer();
  }
}
