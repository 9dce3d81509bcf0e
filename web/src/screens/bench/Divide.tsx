import type { KeyboardEvent, PointerEvent } from "react";
import { sure } from "../../parts/sure";
import { useView } from "./view";

const STEP = 0.02;

/** The line between two pictures, moved by hand or by arrow keys. */
export function Divide() {
  const divide = useView((view) => view.divide);
  const set = useView((view) => view.set);
  const move = (to: number) => set({ divide: Math.min(0.98, Math.max(0.02, to)) });
  const handleMove = (event: PointerEvent<HTMLElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const box = sure(event.currentTarget.parentElement, "the stage").getBoundingClientRect();
    move((event.clientX - box.left) / box.width);
  };
  const handleKey = (event: KeyboardEvent) => {
    const way = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
    if (way) move(divide + way);
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Divide"
      aria-valuemin={2}
      aria-valuemax={98}
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
