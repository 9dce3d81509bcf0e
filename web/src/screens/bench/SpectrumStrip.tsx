import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { ControlRow } from "../../parts/NumberControl";
import { sure } from "../../parts/sure";

type SpectrumStripProps = {
  label: string;
  plain: string;
  sizes: number[];
  values: number[];
  initial: number[];
  onMove: (values: number[]) => void;
  onDone: (values: number[]) => void;
};

const [WIDTH, HEIGHT, SIDE, TOP] = [214, 70, 12, 8];
const HIGHEST = 2;
const KEY_STEP = 0.05;

/**
 * Weights over feature size, broad on the left: each handle lifts or calms the detail of its size.
 */
export function SpectrumStrip({
  label,
  plain,
  sizes,
  values,
  initial,
  onMove,
  onDone,
}: SpectrumStripProps) {
  const svg = useRef<SVGSVGElement>(null);
  const [first, last] = [Math.log(sizes[0]), Math.log(sizes[sizes.length - 1])];
  const xs = sizes.map((s) => SIDE + ((Math.log(s) - first) / (last - first)) * (WIDTH - 2 * SIDE));
  const yOf = (value: number) => TOP + (1 - value / HIGHEST) * (HEIGHT - 2 * TOP);
  const withValue = (k: number, value: number) =>
    values.map((v, i) =>
      i === k ? Math.min(HIGHEST, Math.max(0, Math.round(value * 100) / 100)) : v,
    );
  const percent = (size: number) => `${+(size * 100).toPrecision(2)} %`;

  const handlePointer = (k: number) => (event: PointerEvent<SVGCircleElement>) => {
    if (event.type === "pointerdown") event.currentTarget.setPointerCapture(event.pointerId);
    else if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const box = sure(svg.current, "the strip").getBoundingClientRect();
    const next = withValue(
      k,
      HIGHEST *
        (1 - ((event.clientY - box.top) * (HEIGHT / box.height) - TOP) / (HEIGHT - 2 * TOP)),
    );
    event.type === "pointerup" ? onDone(next) : onMove(next);
  };
  const handleKey = (k: number) => (event: KeyboardEvent) => {
    const way = {
      ArrowUp: KEY_STEP,
      ArrowRight: KEY_STEP,
      ArrowDown: -KEY_STEP,
      ArrowLeft: -KEY_STEP,
    }[event.key];
    if (!way) return;
    event.preventDefault();
    onDone(withValue(k, values[k] + way));
  };
  const line = [
    `0,${yOf(values[0])}`,
    ...xs.map((x, k) => `${x},${yOf(values[k])}`),
    `${WIDTH},${yOf(values[values.length - 1])}`,
  ].join(" ");
  return (
    <ControlRow
      label={label}
      plain={plain}
      isAtStart={values.every((v, k) => v === initial[k])}
      onReset={() => onDone(initial)}
    >
      <div className="grow">
        <svg
          ref={svg}
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          className="block w-full border border-hair bg-sheet"
        >
          <line
            x1={0}
            x2={WIDTH}
            y1={yOf(1)}
            y2={yOf(1)}
            className="stroke-hair"
            strokeDasharray="2 3"
          />
          <polygon points={`0,${HEIGHT} ${line} ${WIDTH},${HEIGHT}`} className="fill-wash" />
          <polyline points={line} className="fill-none stroke-copper" strokeWidth={1.5} />
          {xs.map((x, k) => (
            <circle
              key={sizes[k]}
              role="slider"
              tabIndex={0}
              aria-label={`${label}, ${percent(sizes[k])}`}
              aria-orientation="vertical"
              aria-valuemin={0}
              aria-valuemax={HIGHEST}
              aria-valuenow={values[k]}
              aria-valuetext={`${values[k].toFixed(2)} ×`}
              cx={x}
              cy={yOf(values[k])}
              r={5.5}
              className="cursor-ns-resize touch-none fill-sheet stroke-copper outline-offset-0"
              strokeWidth={1.8}
              onPointerDown={handlePointer(k)}
              onPointerMove={handlePointer(k)}
              onPointerUp={handlePointer(k)}
              onKeyDown={handleKey(k)}
            >
              <title>{`Detail of ${percent(sizes[k])} of the width: ${values[k].toFixed(2)} ×`}</title>
            </circle>
          ))}
        </svg>
        <div className="relative h-4 text-[10.5px] text-ink2">
          {sizes.map((s, k) => (
            <span
              key={s}
              className="absolute -translate-x-1/2 whitespace-nowrap"
              style={{ left: `${(100 * Math.min(WIDTH - 16, Math.max(16, xs[k]))) / WIDTH}%` }}
            >
              {percent(s)}
            </span>
          ))}
        </div>
      </div>
    </ControlRow>
  );
}
