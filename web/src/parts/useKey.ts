import { useEffect, useLayoutEffect, useRef } from "react";
import { meaningOf } from "./keys";

/** Which way an arrow key points: to the right, and downwards. */
export const ARROWS: Record<string, [number, number] | undefined> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

const WRITES = "input:not([type=checkbox]), select, textarea, [role=dialog]";
const FINDS_BY_LETTER = "[role=combobox], [role=listbox], [role=menu]";

/**
 * Is the person writing, or at a control that has keys of its own? A list leaves undo to the place.
 */
const isTaken = ({ target, ctrlKey, metaKey }: KeyboardEvent) =>
  target instanceof Element &&
  (target.closest(WRITES) !== null ||
    (!ctrlKey && !metaKey && target.closest(FINDS_BY_LETTER) !== null));

const isRun = (event: KeyboardEvent) =>
  (event.ctrlKey || event.metaKey) &&
  event.key === "Enter" &&
  !(event.target instanceof Element && event.target.closest("[role=dialog]"));

/**
 * Call `onKey` for plain keys pressed anywhere outside of text fields, by what they mean to this
 * person. Ctrl+Z and Ctrl+Shift+Z arrive as "undo" and "redo", Ctrl+A as "all", Ctrl+Enter as
 * "run", from text fields too.
 */
export function useKey(
  onKey: (key: string, event: KeyboardEvent) => void,
  onRelease?: (key: string) => void,
) {
  const latest = useRef({ onKey, onRelease });
  useLayoutEffect(() => {
    latest.current = { onKey, onRelease };
  });
  useEffect(() => {
    const handleDown = (event: KeyboardEvent) => {
      if (isRun(event)) {
        event.preventDefault();
        const typed = document.activeElement;
        if (typed instanceof HTMLElement) typed.blur(); // what is being typed counts
        return latest.current.onKey("run", event);
      }
      if (isTaken(event) || event.altKey) return;
      const isUndo = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z";
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "a")
        return latest.current.onKey("all", event);
      if (isUndo) event.preventDefault();
      else if (event.ctrlKey || event.metaKey) return;
      const undo = event.shiftKey ? "redo" : "undo";
      latest.current.onKey(isUndo ? undo : meaningOf(event.key), event);
    };
    const handleUp = (event: KeyboardEvent) => latest.current.onRelease?.(meaningOf(event.key));
    window.addEventListener("keydown", handleDown);
    window.addEventListener("keyup", handleUp);
    return () => {
      window.removeEventListener("keydown", handleDown);
      window.removeEventListener("keyup", handleUp);
    };
  }, []);
}
