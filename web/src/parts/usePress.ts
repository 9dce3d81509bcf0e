import { useEffect, useState } from "react";

/**
 * A press that is not lost: it acts at once where it can, or as soon as what it waits for is there.
 * `isSoon` says that something is under way which decides whether it can.
 */
export function usePress<T>(canGo: boolean, isSoon: boolean, act: (value: T) => void) {
  const [kept, setKept] = useState<{ value: T } | null>(null);
  useEffect(() => {
    if (!kept || isSoon) return;
    setKept(null);
    if (canGo) act(kept.value);
  });
  return (value: T) => {
    if (canGo && !isSoon) act(value);
    else if (isSoon) setKept({ value });
  };
}
