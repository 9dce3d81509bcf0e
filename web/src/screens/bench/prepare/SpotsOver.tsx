import { type PointerEvent, useState } from "react";
import { useView } from "../view";
import { type OverProps, type Place, placed, Reach, shareOf } from "./drawing";
import type { Point, Spot, StepOf } from "./steps";

const DRAGGED_PX = 6;
const LARGEST = 0.1; // radius, as a share of the width

/** Spots that are out, and a click, or an oval that is dragged, for the next. */
export function SpotsOver({ at, index, step, steps }: OverProps<StepOf<"spots">>) {
  const prep = useView((view) => view.prep);
  const [from, setFrom] = useState<Point | null>(null);
  const [over, setOver] = useState<Point | null>(null);
  const radius = prep?.radius ?? 0.02;
  const place = (event: PointerEvent<SVGElement>): Point =>
    shareOf(event, at, event.currentTarget.getBoundingClientRect());
  const oval = ([x, y]: Point, to: Point | null) => {
    const [across, down] = to
      ? [Math.abs(to[0] - x) * at.width, Math.abs(to[1] - y) * at.height]
      : [0, 0];
    const isDragged = Math.max(across, down) > DRAGGED_PX;
    const side = (px: number) => Math.min(LARGEST, Math.max(px, DRAGGED_PX) / at.width);
    return {
      x,
      y,
      across: isDragged ? side(across) : radius,
      down: isDragged ? side(down) : radius,
    };
  };
  const handleUp = () => {
    if (from && !steps.isBusy) steps.spot(index, oval(from, over));
    setFrom(null);
  };
  const next = from ? oval(from, over) : over && oval(over, null);
  return (
    <svg
      role="application"
      aria-label="Click on spots"
      className="absolute touch-none cursor-crosshair overflow-visible"
      style={{ ...placed(at), pointerEvents: "auto" }}
      width={at.width}
      height={at.height}
      data-testid="spots-over"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setFrom(place(event));
        setOver(place(event));
      }}
      onPointerMove={(event) => setOver(place(event))}
      onPointerUp={handleUp}
      onPointerLeave={() => !from && setOver(null)}
    >
      <rect width={at.width} height={at.height} fill="transparent" />
      {step.spots.map((spot, k) => (
        <SpotMark key={`${spot.x} ${spot.y}`} spot={spot} at={at} isPointed={prep?.pointed === k} />
      ))}
      {next && (
        <Reach
          x={next.x * at.width}
          y={next.y * at.height}
          rx={next.across * at.width}
          ry={next.down * at.width}
        />
      )}
    </svg>
  );
}

/** A spot that is out, as a thin ring; pointed at in the list it shows where it is filled from. */
function SpotMark({ spot, at, isPointed }: { spot: Spot; at: Place; isPointed: boolean }) {
  const [x, y] = [spot.x * at.width, spot.y * at.height];
  const size = { rx: spot.across * at.width, ry: spot.down * at.width };
  const [fromX, fromY] = [x + spot.from_x * at.width, y + spot.from_y * at.height];
  return (
    <g className="pointer-events-none">
      <ellipse
        cx={x}
        cy={y}
        {...size}
        className={`fill-none ${isPointed ? "stroke-copper [stroke-width:3]" : "stroke-[#ffffff80] [stroke-dasharray:3_4] [stroke-width:1.2]"}`}
      />
      {isPointed && (
        <>
          <path d={`M${fromX} ${fromY}L${x} ${y}`} className="stroke-copper [stroke-width:2]" />
          <ellipse
            cx={fromX}
            cy={fromY}
            {...size}
            className="fill-none stroke-copper [stroke-dasharray:4_4] [stroke-width:2]"
          />
        </>
      )}
    </g>
  );
}
