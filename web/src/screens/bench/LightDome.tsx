import type { KeyboardEvent, PointerEvent } from "react";
import { Hint } from "../../parts/Hint";
import { useView } from "./view";

const RADIUS_PX = 44;
const STEP = 0.08;

/**
 * Where the lamp stands, on a dome seen from the camera: the middle is behind the eye, the rim is
 * at the side.
 */
export function LightDome() {
  const lamp = useView((view) => view.lamp);
  const set = useView((view) => view.set);
  const move = (x: number, y: number) => {
    const far = Math.max(1, Math.hypot(x, y) / 0.98);
    set({ lamp: [x / far, y / far] });
  };
  const handlePointer = (event: PointerEvent<HTMLElement>) => {
    if (event.type === "pointerdown") event.currentTarget.setPointerCapture(event.pointerId);
    else if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const box = event.currentTarget.getBoundingClientRect();
    move(
      (event.clientX - box.left - box.width / 2) / RADIUS_PX,
      -(event.clientY - box.top - box.height / 2) / RADIUS_PX,
    );
  };
  const handleKey = (event: KeyboardEvent) => {
    const [x, y] =
      { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, STEP], ArrowDown: [0, -STEP] }[
        event.key
      ] ?? [];
    if (x === undefined || y === undefined) return;
    event.preventDefault();
    move(lamp[0] + x, lamp[1] + y);
  };
  const lean = Math.round((Math.asin(Math.min(1, Math.hypot(...lamp))) * 180) / Math.PI);
  const side =
    [
      lamp[1] > 0.2 && "upper",
      lamp[1] < -0.2 && "lower",
      lamp[0] > 0.2 && "right",
      lamp[0] < -0.2 && "left",
    ]
      .filter(Boolean)
      .join(" ") || "front";
  return (
    <Hint says={`Lamp ${lean}° from the eye, ${side}`}>
      <div
        role="slider"
        tabIndex={0}
        aria-label="Lamp"
        aria-valuenow={lean}
        aria-valuetext={`${lean}° from the eye, ${side}`}
        className="absolute right-3.5 bottom-3.5 size-[92px] cursor-pointer touch-none
          rounded-full border border-on-tag/70 bg-tag/25"
        onPointerDown={handlePointer}
        onPointerMove={handlePointer}
        onKeyDown={handleKey}
      >
        <i className="absolute inset-[23px] rounded-full border border-dashed border-on-tag/60" />
        <i
          className="absolute size-3.5 -translate-1/2 rounded-full border-2 border-on-tag bg-copper"
          style={{
            left: `calc(50% + ${lamp[0] * RADIUS_PX}px)`,
            top: `calc(50% - ${lamp[1] * RADIUS_PX}px)`,
          }}
        />
      </div>
    </Hint>
  );
}
