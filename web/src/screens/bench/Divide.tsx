import type { KeyboardEvent, PointerEvent } from "react";
import { sure } from "../../parts/sure";
import { useView } from "./view";

const STEP = 0.02;
const LEAST = 0.02;
const MOST = 0.98;
/** How far each key moves it; Home and End move it all the way. */
const KEYS: Record<string, number> = {
  ArrowLeft: -STEP,
  ArrowDown: -STEP,
  ArrowRight: STEP,
  ArrowUp: STEP,
  PageDown: -0.1,
  PageUp: 0.1,
  Home: -1,
  End: 1,
};

/** The line between two pictures, moved by hand or by arrow keys. */
export function Divide() {
  const divide = useView((view) => view.divide);
  const set = useView((view) => view.set);
  const move = (to: number) => set({ divide: Math.min(MOST, Math.max(LEAST, to)) });
  const handleMove = (event: PointerEvent<HTMLElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const box = sure(event.currentTarget.parentElement, "the stage").getBoundingClientRect();
    move((event.clientX - box.left) / box.width);
  };
  const handleKey = (event: KeyboardEvent) => {
    const way = KEYS[event.key];
    if (way === undefined || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault(); // the page would scroll
    move(divide + way);
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Divide"
      aria-valuemin={LEAST * 100}
      aria-valuemax={MOST * 100}
      aria-valuenow={Math.round(divide * 100)}
      aria-orientation="horizontal"
      className="absolute inset-y-0 w-6 -translate-x-1/2 cursor-col-resize touch-none"
      style={{ left: `${divide * 100}%` }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={handleMove}
      onKeyDown={handleKey}
    >
      <i className="absolute inset-y-0 left-1/2 w-px bg-copper" />
      <i className="absolute top-1/2 left-1/2 size-5 -translate-1/2 rounded-full border-2 border-copper bg-sheet" />
    </div>
  );
}
