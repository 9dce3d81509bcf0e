import { type PointerEvent, useState } from "react";
import { useDragged } from "../../../parts/useDragged";
import { useView } from "../view";
import { type OverProps, Painting, type Place, placed, Reach, shareOf } from "./drawing";
import { brushed, type Drawn, type Point, pathOf, type Spot, type StepOf } from "./steps";
import type { Placed } from "./useSteps";

const DRAGGED_PX = 6;
const LARGEST = 0.1; // radius, as a share of the width

/** Spots that are out, and the next: brushed, clicked, or dragged as an oval. */
export function SpotsOver(props: OverProps<StepOf<"spots">>) {
  const { at, index, step, steps } = props;
  const prep = useView((view) => view.prep);
  if (prep?.tool !== "brush") return <OvalsOver {...props} />;
  const handleDone = (drawn: Drawn[]) =>
    steps.spot(index, brushed(drawn, prep.radius, at.width / at.height));
  return (
    <>
      <svg
        role="img"
        aria-label="Spots that are out"
        className="pointer-events-none absolute overflow-visible"
        style={placed(at)}
        width={at.width}
        height={at.height}
      >
        <Marks spots={step.spots} at={at} pointed={prep.pointed} />
        <Waiting spots={steps.spotsAt(index)} at={at} />
      </svg>
      <Painting
        at={at}
        radius={prep.radius}
        className="stroke-copper"
        label="Brush over spots"
        onDone={handleDone}
      />
    </>
  );
}

type MarksProps = { spots: Spot[]; at: Place; pointed: number | null };

function Marks({ spots, at, pointed }: MarksProps) {
  return spots.map((spot, k) => (
    <SpotMark key={`${spot.x} ${spot.y}`} spot={spot} at={at} isPointed={pointed === k} />
  ));
}

/** Spots that are still looked at: as they were drawn, until they are out. */
function Waiting({ spots, at }: { spots: Placed[]; at: Place }) {
  return spots.map((spot) => (
    <g
      key={`${spot.x} ${spot.y}`}
      data-testid="spot-waits"
      className="pointer-events-none opacity-60"
    >
      {spot.path.length > 0 ? (
        <path
          d={pathOf(lineOfSpot(spot), at.width, at.height)}
          className={`${LINE} stroke-copper`}
          strokeWidth={2 * spot.brush * at.width}
        />
      ) : (
        <ellipse
          className="fill-copper stroke-white [stroke-width:1.5]"
          cx={spot.x * at.width}
          cy={spot.y * at.height}
          rx={spot.across * at.width}
          ry={spot.down * at.width}
        />
      )}
    </g>
  ));
}

const LINE = "fill-none [stroke-linecap:round] [stroke-linejoin:round]";
const lineOfSpot = ({ x, y, path }: Placed) => path.map(([dx, dy]): Point => [x + dx, y + dy]);

function OvalsOver({ at, index, step, steps }: OverProps<StepOf<"spots">>) {
  const prep = useView((view) => view.prep);
  const pressed = useDragged<Point | null>(null);
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
      path: [],
      brush: 0,
    };
  };
  const handleUp = (event: PointerEvent<SVGElement>) => {
    const from = pressed.now.current;
    if (from) steps.spot(index, oval(from, place(event)));
    pressed.set(null);
  };
  const from = pressed.drawn;
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
        pressed.set(place(event));
        setOver(place(event));
      }}
      onPointerMove={(event) => setOver(place(event))}
      onPointerUp={handleUp}
      onPointerCancel={() => pressed.set(null)}
      onPointerLeave={() => !from && setOver(null)}
    >
      <rect width={at.width} height={at.height} fill="transparent" />
      <Marks spots={step.spots} at={at} pointed={prep?.pointed ?? null} />
      <Waiting spots={steps.spotsAt(index)} at={at} />
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
  const line = lineOfSpot(spot);
  const path = pathOf(line, at.width, at.height);
  const [fromX, fromY] = [x + spot.from_x * at.width, y + spot.from_y * at.height];
  return (
    <g className="pointer-events-none">
      {line.length > 0 && (
        <path
          d={path}
          className={`${LINE}
            ${isPointed ? "stroke-copper opacity-50" : "stroke-white opacity-25"}`}
          strokeWidth={2 * spot.brush * at.width}
        />
      )}
      <ellipse
        cx={x}
        cy={y}
        {...size}
        visibility={line.length ? "hidden" : undefined}
        className={`fill-none
          ${isPointed ? "stroke-copper [stroke-width:3]" : "stroke-[#ffffff80] [stroke-dasharray:3_4] [stroke-width:1.2]"}`}
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
