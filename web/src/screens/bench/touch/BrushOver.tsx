import { useEffect, useState } from "react";
import { useKey } from "../../../parts/useKey";
import type { Edit } from "../edit";
import { Painting, type Place, Trace } from "../prepare/drawing";
import type { Drawn } from "../prepare/steps";
import { type Brush, type ShownTile, useView } from "../view";
import { type Brushed, touchOf, withTouch } from "./touch";

type BrushOverProps = { edit: Edit; at: Place; tile: ShownTile | null; isBehind: boolean };

const STEP = 1.15; // a press of the keys for a narrower or wider brush
const WIDEST = 0.3;

/** The brush over the flat picture of its map. A stroke stays drawn until the map has it. */
export function BrushOver({ edit, at, tile, isBehind }: BrushOverProps) {
  const brush = useView((view) => view.brush);
  const set = useView((view) => view.set);
  const [drawn, setDrawn] = useState<Drawn[]>([]);
  useEffect(() => {
    if (!isBehind) setDrawn([]);
  }, [isBehind]);
  useKey((key) => {
    const factor = { ",": 1 / STEP, ".": STEP }[key];
    if (factor && brush)
      set({
        brush: { ...brush, radius: Math.min(WIDEST, Math.max(0.002, brush.radius * factor)) },
      });
  });
  if (!brush || tile === "all") return null;
  const handleDone = (points: Drawn[], isAlt: boolean) => {
    setDrawn(points);
    const touch = touchOf(edit.recipe, brush.master);
    const stroke = strokeOf(isAlt ? { ...brush, way: "erase" } : brush, points, tile);
    edit.keep(
      withTouch(edit.recipe, brush.master, { ...touch, strokes: [...touch.strokes, stroke] }),
    );
  };
  const shared = { at, radius: brush.radius, stroke: shadeOf(brush) };
  return (
    <>
      <svg
        aria-hidden
        className="pointer-events-none absolute overflow-visible"
        style={{ left: at.x, top: at.y }}
        width={at.width}
        height={at.height}
      >
        <Trace points={drawn} {...shared} />
      </svg>
      <Painting
        {...shared}
        label={`Draw on ${brush.master.replace("_", " ")}`}
        onDone={handleDone}
      />
    </>
  );
}

function strokeOf(brush: Brush, drawn: Drawn[], tile: number | null): Brushed {
  const { radius, hardness, way, value, color, strength } = brush;
  const isPressed = drawn.some(([, , pressure]) => pressure !== 1);
  return {
    points: drawn.map(([x, y]): [number, number] => [x, y]),
    pressures: isPressed ? drawn.map(([, , pressure]) => pressure) : [],
    radius,
    hardness,
    way,
    value,
    color: isColor(brush.master) ? color : null,
    strength,
    is_on: true,
    tile,
  };
}

const isColor = (master: string) => master === "base_color" || master === "emissive";

/** What a stroke looks like while it is drawn: its value, or copper where it has none. */
function shadeOf(brush: Brush): string {
  if (brush.way !== "paint") return "#a4512a";
  if (isColor(brush.master)) return brush.color;
  const code = Math.round(brush.value * 255);
  return `rgb(${code} ${code} ${code})`;
}
