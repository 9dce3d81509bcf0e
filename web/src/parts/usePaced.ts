import { useEffect, useRef, useState } from "react";

/** A value that changes often, as it was told at most so many milliseconds ago; it stays where that is null. */
export function usePaced<T>(value: T, everyMs: number | null): T {
  const [paced, setPaced] = useState(value);
  const told = useRef(0);
  useEffect(() => {
    if (everyMs === null) return;
    const tell = () => {
      told.current = performance.now();
      setPaced(value);
    };
    const timer = setTimeout(tell, Math.max(0, told.current + everyMs - performance.now()));
    return () => clearTimeout(timer);
  }, [value, everyMs]);
  return everyMs === 0 ? value : paced;
}
