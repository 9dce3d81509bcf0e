import { useRef, useState } from "react";

/**
 * What a drag has made so far. Moves are drawn when the screen gets to it, which on a busy machine
 * is after the pointer was let go: `now` is known to the very next event, `drawn` is for the screen.
 */
export function useDragged<T>(still: T) {
  const [drawn, setDrawn] = useState(still);
  const now = useRef(still);
  const set = (next: T) => {
    now.current = next;
    setDrawn(next);
  };
  return { drawn, now, set };
}
