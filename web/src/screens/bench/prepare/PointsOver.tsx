import { type PointerEvent, useRef } from "react";
import { useDragged } from "../../../parts/useDragged";
import { ARROWS } from "../../../parts/useKey";
import { Both, type OverProps, placed, shareOf } from "./drawing";
import { type Point, pathOf, type StepOf } from "./steps";

const KEY_STEP = 0.002;

/** Four corners to drag, or to move by arrow keys. */
export function PointsOver({ at, index, step, steps }: OverProps<StepOf<"straighten">>) {
  const moving = useDragged<Point[] | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const points = moving.drawn ?? step.points.map(([x, y]): Point => [x, y]);
  const keep = ([first, second, third, fourth]: Point[]) =>
    steps.change(index, { ...step, points: [first, second, third, fourth] });
  const moved = (which: number, [x, y]: Point) =>
    points.map((point, k): Point => (k === which ? [inside(x), inside(y)] : point));
  const handleMove = (which: number) => (event: PointerEvent) => {
    if (!box.current || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
    moving.set(moved(which, shareOf(event, at, box.current.getBoundingClientRect())));
  };
  const handleUp = () => {
    if (moving.now.current) keep(moving.now.current);
    moving.set(null);
  };
  const thirds = [1 / 3, 2 / 3].flatMap((t) => [
    [between(points[0], points[1], t), between(points[3], points[2], t)],
    [between(points[0], points[3], t), between(points[1], points[2], t)],
  ]);
  return (
    <svg
      ref={box}
      className="absolute overflow-visible"
      style={placed(at)}
      width={at.width}
      height={at.height}
      data-testid="straighten-points"
    >
      <title>Four points that become the corners</title>
      {[...thirds, [...points, points[0]]].map((line) => (
        <Both key={String(line)} d={pathOf(line, at.width, at.height)} />
      ))}
      {points.map(([x, y], k) => (
        <circle
          key={k}
          role="slider"
          tabIndex={0}
          aria-label={CORNERS[k]}
          aria-valuenow={Math.round(x * 100)}
          aria-valuetext={`${(x * 100).toFixed(1)}, ${(y * 100).toFixed(1)} %`}
          cx={x * at.width}
          cy={y * at.height}
          r={8}
          className="pointer-events-auto cursor-move touch-none fill-[#ffffff] stroke-copper
            [stroke-width:3]"
          onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
          onPointerMove={handleMove(k)}
          onPointerUp={handleUp}
          onKeyDown={(event) => {
            const arrow = ARROWS[event.key];
            if (!arrow) return;
            event.preventDefault();
            event.stopPropagation();
            const by = event.shiftKey ? 10 * KEY_STEP : KEY_STEP;
            moving.set(moved(k, [x + arrow[0] * by, y + arrow[1] * by]));
          }}
          onKeyUp={handleUp}
        />
      ))}
    </svg>
  );
}

const CORNERS = ["Upper left", "Upper right", "Lower right", "Lower left"];
const inside = (share: number) => Math.min(1.2, Math.max(-0.2, share));
const between = (a: Point, b: Point, t: number): Point => [
  a[0] + (b[0] - a[0]) * t,
  a[1] + (b[1] - a[1]) * t,
];
