import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { ask, useAway } from "../parts/ask";

const AGAIN_MS = 2000;

/**
 * Says that the server does not answer, over whatever is on screen, which stays; asks again until it
 * does, and then everything that was missed.
 */
export function Away() {
  const isAway = useAway((away) => away.isAway);
  const queries = useQueryClient();
  useEffect(() => {
    if (!isAway) return;
    const again = () =>
      ask("/api/projects").then(
        () => queries.invalidateQueries(),
        () => undefined, // still away
      );
    const timer = setInterval(again, AGAIN_MS);
    return () => clearInterval(timer);
  }, [isAway, queries]);
  if (!isAway) return null;
  return (
    <p
      role="alert"
      className="-translate-x-1/2 fixed top-12 left-1/2 z-50 rounded-[3px] border border-stop
        bg-sheet px-3 py-2 shadow-[0_2px_10px_rgb(0_0_0/0.15)]"
    >
      <b className="font-semibold text-stop">The server does not answer.</b> Start it again, and
      this page goes on from the last step that was kept.
    </p>
  );
}
