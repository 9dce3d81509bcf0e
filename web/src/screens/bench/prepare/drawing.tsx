import { type PointerEvent, useRef, useState } from "react";
import { useDragged } from "../../../parts/useDragged";
import { type Drawn, type Point, pathOf, thinned } from "./steps";
import type { Preparing } from "./useSteps";

/** Where a picture stands on its stage, in CSS pixels. */
export type Place = { x: number; y: number; width: number; height: number };

/** What every drawing over the picture is told. */
export type OverProps<S> = {
  at: Place;
  index: number;
  step: S;
  steps: Preparing;
};

export const placed = ({ x, y }: Place): React.CSSProperties => ({ left: x, top: y });

/** The pointer's place on the picture, in shares. */
export function shareOf(event: PointerEvent, at: Place, box: DOMRect): Point {
  return [(event.clientX - box.left) / at.width, (event.clientY - box.top) / at.height];
}

/** A line that is seen on light and on dark. */
export function Both({ d, isDashed = false }: { d: string; isDashed?: boolean }) {
  return (
    <>
      <path d={d} className="fill-none stroke-[#00000099] [stroke-width:4]" />
      <path
        d={d}
        className="fill-none stroke-[#f2d9c6] [stroke-width:2]"
        strokeDasharray={isDashed ? "6 5" : undefined}
      />
    </>
  );
}

type PaintingProps = {
  at: Place;
  radius: number;
  className?: string;
  stroke?: string;
  label: string;
  onDone: (points: Drawn[], isAlt: boolean) => void;
};

/** Takes strokes by pointer: drawn at once, handed over when the pointer is let go. */
export function Painting({ at, radius, className, stroke, label, onDone }: PaintingProps) {
  const points = useDragged<Drawn[]>([]);
  const [over, setOver] = useState<Point | null>(null);
  const isAlt = useRef(false);
  const place = (event: PointerEvent<SVGElement>): Drawn => [
    ...shareOf(event, at, event.currentTarget.getBoundingClientRect()),
    event.pointerType === "pen" ? event.pressure : 1,
  ];
  const handleMove = (event: PointerEvent<SVGSVGElement>) => {
    const [x, y, pressure] = place(event);
    setOver([x, y]);
    if (event.currentTarget.hasPointerCapture(event.pointerId))
      points.set([...points.now.current, [x, y, pressure]]);
  };
  const handleUp = () => {
    const kept = thinned(points.now.current, radius);
    if (kept.length) onDone(kept, isAlt.current);
    points.set([]);
  };
  return (
    <svg
      role="application"
      aria-label={label}
      className="absolute touch-none cursor-none overflow-visible"
      style={{ ...placed(at), pointerEvents: "auto" }}
      width={at.width}
      height={at.height}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        isAlt.current = event.altKey;
        points.set([place(event)]);
      }}
      onPointerMove={handleMove}
      onPointerUp={handleUp}
      onPointerCancel={() => points.set([])}
      onPointerLeave={() => setOver(null)}
    >
      <rect width={at.width} height={at.height} fill="transparent" />
      <Trace points={points.drawn} at={at} radius={radius} className={className} stroke={stroke} />
      {over && (
        <Reach
          x={over[0] * at.width}
          y={over[1] * at.height}
          rx={radius * at.width}
          ry={radius * at.width}
        />
      )}
    </svg>
  );
}

type TraceProps = Pick<PaintingProps, "at" | "radius" | "className" | "stroke"> & {
  points: Drawn[];
};

/** A stroke as it is drawn, before the map has it. */
export function Trace({ points, at, radius, className = "", stroke }: TraceProps) {
  if (!points.length) return null;
  const along = points.map(([x, y]): Point => [x, y]);
  return (
    <path
      d={pathOf(along.length === 1 ? [along[0], along[0]] : along, at.width, at.height)}
      className={`fill-none opacity-60 [stroke-linecap:round] [stroke-linejoin:round] ${className}`}
      stroke={stroke}
      strokeWidth={2 * radius * at.width}
    />
  );
}

/** How far what is placed next reaches. */
export function Reach({ x, y, rx, ry }: { x: number; y: number; rx: number; ry: number }) {
  return (
    <>
      <ellipse
        cx={x}
        cy={y}
        rx={rx}
        ry={ry}
        className="fill-none stroke-[#00000099] [stroke-width:3]"
      />
      <ellipse
        cx={x}
        cy={y}
        rx={rx}
        ry={ry}
        className="fill-none stroke-[#ffffff] [stroke-width:1.5]"
      />
    </>
  );
}
