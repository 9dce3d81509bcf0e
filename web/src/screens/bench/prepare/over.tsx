import { type PointerEvent, useRef, useState } from "react";
import { ARROWS } from "../../../parts/useKey";
import type { Edit } from "../edit";
import { useView } from "../view";
import {
  type Drawn,
  linesOf,
  type Point,
  pathOf,
  type Spot,
  type Step,
  type StepOf,
  thinned,
} from "./steps";
import { askedOf, useSteps } from "./useSteps";

/** Where a picture stands on its stage, in CSS pixels. */
export type Place = { x: number; y: number; width: number; height: number };

type OverProps<S> = { at: Place; index: number; step: S; steps: ReturnType<typeof useSteps> };

/** What lies over the flat picture while a step of preparing is open. */
export function PrepareOver({ edit, at }: { edit: Edit; at: Place }) {
  const prep = useView((view) => view.prep);
  const steps = useSteps(edit);
  const step: Step | undefined = prep ? steps.steps[prep.at] : undefined;
  if (!prep || !step) return null;
  const shared = { at, index: prep.at, steps };
  if (step.kind === "spots") return <SpotsOver step={step} {...shared} />;
  if (prep.shows !== "picture") return null;
  if (step.kind === "straighten") return <PointsOver step={step} {...shared} />;
  if (step.kind === "repeat") return <LineOver step={step} {...shared} />;
  return null;
}

const placed = ({ x, y }: Place): React.CSSProperties => ({ left: x, top: y });

/** The pointer's place on the picture, in shares. */
function shareOf(event: PointerEvent, at: Place, box: DOMRect): Point {
  return [(event.clientX - box.left) / at.width, (event.clientY - box.top) / at.height];
}

const KEY_STEP = 0.002;

/** Four corners to drag, or to move by arrow keys. */
function PointsOver({ at, index, step, steps }: OverProps<StepOf<"straighten">>) {
  const [moving, setMoving] = useState<Point[] | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const points = moving ?? (step.points as Point[]);
  const keep = (next: Point[]) =>
    steps.change(index, { ...step, points: next as typeof step.points });
  const moved = (which: number, [x, y]: Point) =>
    points.map((point, k): Point => (k === which ? [inside(x), inside(y)] : point));
  const handleMove = (which: number) => (event: PointerEvent) => {
    if (!box.current || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
    setMoving(moved(which, shareOf(event, at, box.current.getBoundingClientRect())));
  };
  const handleUp = () => {
    if (moving) keep(moving);
    setMoving(null);
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
          className="pointer-events-auto cursor-move touch-none fill-[#ffffff] stroke-copper [stroke-width:3]"
          onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
          onPointerMove={handleMove(k)}
          onPointerUp={handleUp}
          onKeyDown={(event) => {
            const arrow = ARROWS[event.key];
            if (!arrow) return;
            event.preventDefault();
            event.stopPropagation();
            const by = event.shiftKey ? 10 * KEY_STEP : KEY_STEP;
            setMoving(moved(k, [x + arrow[0] * by, y + arrow[1] * by]));
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

/** A line that is seen on light and on dark. */
function Both({ d, isDashed = false }: { d: string; isDashed?: boolean }) {
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

/** The tile on the picture, bounded by the real line and its twin; what lies outside is dimmed, and can be painted on. */
function LineOver({ at, index, step, steps }: OverProps<StepOf<"repeat">>) {
  const prep = useView((view) => view.prep);
  const sides = [step.x?.side ?? 1, step.y?.side ?? 1];
  const across = step.x ? linesOf(step.x, "x", 1) : null;
  const down = step.y ? linesOf(step.y, "y", sides[0]) : null;
  const handlePainted = (drawn: Drawn[]) => {
    if (!prep?.tool) return;
    const asked = askedOf(step);
    const points = drawn.map(([x, y]): Point => [x, y]);
    const painted = [...step.guide[prep.tool], { points, radius: prep.radius }];
    steps.repeat(index, { ...asked, guide: { ...asked.guide, [prep.tool]: painted } });
  };
  return (
    <>
      <svg
        className="pointer-events-none absolute overflow-visible"
        style={placed(at)}
        width={at.width}
        height={at.height}
        data-testid="repeat-line"
      >
        <title>The line, and its twin one tile on</title>
        {across && <Dimmed line={across[0]} twin={across[1]} axis="x" at={at} />}
        {down && <Dimmed line={down[0]} twin={down[1]} axis="y" at={at} />}
        {[across, down].map(
          (lines, k) =>
            lines && (
              <g key={k}>
                <Both d={pathOf(lines[0], at.width, at.height)} />
                <Both d={pathOf(lines[1], at.width, at.height)} isDashed />
              </g>
            ),
        )}
        {(["keep", "avoid"] as const).flatMap((name) =>
          step.guide[name].map((stroke) => (
            <path
              key={`${name} ${stroke.points[0]} ${stroke.points.length}`}
              d={pathOf(stroke.points as Point[], at.width, at.height)}
              className={`fill-none opacity-50 [stroke-linecap:round] [stroke-linejoin:round] ${name === "keep" ? "stroke-verdigris" : "stroke-stop"}`}
              strokeWidth={2 * stroke.radius * at.width}
            />
          )),
        )}
      </svg>
      {prep?.tool && (
        <Painting
          at={at}
          radius={prep.radius}
          className={prep.tool === "keep" ? "stroke-verdigris" : "stroke-stop"}
          label={
            prep.tool === "keep" ? "Paint what to keep" : "Paint where the line had better not run"
          }
          onDone={handlePainted}
        />
      )}
    </>
  );
}

type DimmedProps = { line: Point[]; twin: Point[]; axis: "x" | "y"; at: Place };

/** What lies before the line and behind its twin is not in the tile. */
function Dimmed({ line, twin, axis, at }: DimmedProps) {
  const end = (value: number, to: Point[]): Point[] => {
    const [first, last] = [to[0], to[to.length - 1]];
    return axis === "x"
      ? [
          [value, last[1]],
          [value, first[1]],
        ]
      : [
          [last[0], value],
          [first[0], value],
        ];
  };
  return (
    <g className="fill-[#00000073]">
      <path d={`${pathOf([...line, ...end(0, line)], at.width, at.height)}Z`} />
      <path d={`${pathOf([...twin, ...end(1, twin)], at.width, at.height)}Z`} />
    </g>
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
  const [points, setPoints] = useState<Drawn[]>([]);
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
      setPoints((now) => [...now, [x, y, pressure]]);
  };
  const handleUp = () => {
    const kept = thinned(points, radius);
    if (kept.length) onDone(kept, isAlt.current);
    setPoints([]);
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
        setPoints([place(event)]);
      }}
      onPointerMove={handleMove}
      onPointerUp={handleUp}
      onPointerLeave={() => setOver(null)}
    >
      <rect width={at.width} height={at.height} fill="transparent" />
      <Trace points={points} at={at} radius={radius} className={className} stroke={stroke} />
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
function Reach({ x, y, rx, ry }: { x: number; y: number; rx: number; ry: number }) {
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

const DRAGGED_PX = 6;
const LARGEST = 0.1; // radius, as a share of the width

/** Spots that are out, and a click, or an oval that is dragged, for the next. */
function SpotsOver({ at, index, step, steps }: OverProps<StepOf<"spots">>) {
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
