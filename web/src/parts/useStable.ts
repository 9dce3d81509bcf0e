import { useRef } from "react";
import { shallow } from "zustand/shallow";

/**
 * The object itself while every part of it is what it was: one thing for an effect to depend on.
 */
export function useStable<T extends object>(value: T): T {
  const kept = useRef(value);
  if (!shallow(kept.current, value)) kept.current = value;
  return kept.current;
}
