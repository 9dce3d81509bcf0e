import { useEffect } from "react";
import type { TextureSet } from "../../../api/client";
import { Hint } from "../../../parts/Hint";
import { Key } from "../../../parts/Key";
import { NumberControl } from "../../../parts/NumberControl";
import { Segments } from "../../../parts/Segments";
import { useKey } from "../../../parts/useKey";
import type { Edit } from "../edit";
import type { Brush, BrushWay } from "../view";
import { useView } from "../view";
import { NoiseControls } from "./NoiseControls";
import { type Brushed, someNoise, type Touch, touchOf, withTouch } from "./touch";

type Master = TextureSet["masters"][number];
const WAYS: readonly (readonly [BrushWay, string])[] = [
  ["paint", "Paint"],
  ["raise", "Raise"],
  ["lower", "Lower"],
  ["soften", "Soften"],
  ["erase", "Erase"],
];
const SAYS: Record<BrushWay, string> = {
  paint: "paints its value",
  raise: "adds to what is there",
  lower: "takes from what is there",
  soften: "softens what is there",
  erase: "takes strokes off again",
};
/** What a stroke does to a color; grays can be raised and lowered as well. */
const OF_COLORS: readonly BrushWay[] = ["paint", "soften", "erase"];

/**
 * What is laid over the chosen map by hand: strokes on the picture, and noise; every map made of it
 * follows.
 */
export function PaintControls({ master, edit }: { master: Master; edit: Edit }) {
  const brush = useView((view) => view.brush);
  const openBrush = useView((view) => view.openBrush);
  const touch = touchOf(edit.recipe, master.key);
  const isOn = brush?.master === master.key;
  const isNormal = master.key === "normal"; // which gets noise, and no strokes
  const isColor = master.absent.length === 3 && !isNormal;
  const keep = (next: Partial<Touch>) =>
    edit.keep(withTouch(edit.recipe, master.key, { ...touch, ...next }));
  useKey((key) => key === "b" && !isNormal && openBrush(isOn ? null : master.key));
  useEffect(() => () => openBrush(null), [openBrush]);
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="w-[84px] shrink-0">{isNormal ? "Over it" : "By hand"}</span>
        {!isNormal && (
          <Hint says="Draw on the picture. Strokes are kept as points, so they are the same at every size; each can be taken off again.">
            <button
              type="button"
              className="button aria-pressed:border-copper aria-pressed:bg-wash"
              aria-pressed={isOn}
              onClick={() => openBrush(isOn ? null : master.key)}
            >
              Brush <Key at="bench" is="b" />
            </button>
          </Hint>
        )}
        {!isColor && touch.noise === null && (
          <button
            type="button"
            className="button"
            onClick={() => keep({ noise: someNoise(edit.recipe) })}
          >
            Add noise
          </button>
        )}
        {touch.strokes.length > 0 && (
          <span className="text-sm text-ink2">
            {touch.strokes.length} {touch.strokes.length === 1 ? "stroke" : "strokes"}
          </span>
        )}
      </div>
      {touch.noise && (
        <NoiseControls
          master={master}
          edit={edit}
          noise={touch.noise}
          onOff={() => keep({ noise: null })}
        />
      )}
      {isOn && brush && <BrushOptions brush={brush} isColor={isColor} />}
      {(isOn || touch.strokes.length > 0) && (
        <Strokes strokes={touch.strokes} onChange={(strokes) => keep({ strokes })} />
      )}
    </div>
  );
}

function BrushOptions({ brush, isColor }: { brush: Brush; isColor: boolean }) {
  const set = useView((view) => view.set);
  const tell = (told: Partial<Brush>) => set({ brush: { ...brush, ...told } });
  const ways = isColor ? WAYS.filter(([way]) => OF_COLORS.includes(way)) : WAYS;
  const isValued = brush.way !== "soften" && brush.way !== "erase";
  const slider = (
    label: string,
    plain: string,
    name: "radius" | "hardness" | "value" | "strength",
    [scale, low, high, unit, initial]: [number, number, number, string, number],
  ) => (
    <NumberControl
      label={label}
      plain={plain}
      unit={unit}
      low={low}
      high={high}
      value={brush[name] * scale}
      initial={initial}
      onMove={(value) => tell({ [name]: value / scale })}
      onDone={(value) => tell({ [name]: value / scale })}
    />
  );
  return (
    <>
      <div className="flex items-center gap-1.5">
        <span className="w-[84px] shrink-0">Stroke</span>
        <Segments
          label="What a stroke does"
          options={ways}
          value={brush.way}
          onChange={(way) => tell({ way })}
        />
      </div>
      {slider("Reach", "How far a stroke goes to either side.", "radius", [
        100,
        0.2,
        30,
        "% of width",
        4,
      ])}
      {slider("Hardness", "How much of its reach is painted in full.", "hardness", [
        100,
        0,
        100,
        "%",
        50,
      ])}
      {isValued &&
        !isColor &&
        slider("Value", `A stroke ${SAYS[brush.way]}.`, "value", [1, 0, 1, "0 … 1", 1])}
      {isValued && isColor && (
        <div className="flex items-center gap-2">
          <span className="w-[84px] shrink-0">Color</span>
          <input
            type="color"
            aria-label="Color of the stroke"
            value={brush.color}
            onChange={(e) => tell({ color: e.target.value })}
            className="h-6 w-9 cursor-pointer border border-hair"
          />
          <span className="text-sm text-ink2">{brush.color.toUpperCase()}</span>
        </div>
      )}
      {slider("Strength", "How much of the stroke shows.", "strength", [100, 1, 100, "%", 100])}
      <p className="text-sm text-ink2">Hold Alt to erase. A pen's pressure narrows the stroke.</p>
    </>
  );
}

type StrokesProps = { strokes: Brushed[]; onChange: (strokes: Brushed[]) => void };

/** The strokes, the last first; each can be switched off or taken away. */
function Strokes({ strokes, onChange }: StrokesProps) {
  if (!strokes.length)
    return <p className="text-sm text-ink2">Nothing painted yet: draw on the picture.</p>;
  return (
    <ul aria-label="Strokes" className="flex max-h-40 flex-col gap-1 overflow-auto">
      {strokes
        .map((stroke, k) => (
          <li key={k} className="flex items-center gap-1.5 text-sm">
            <input
              type="checkbox"
              aria-label={`Stroke ${k + 1} is on`}
              checked={stroke.is_on}
              onChange={(e) => onChange(strokes.with(k, { ...stroke, is_on: e.target.checked }))}
            />
            <span className="grow">
              {strokeSaid(stroke)}
              <span className="text-ink2">, reach {(stroke.radius * 100).toFixed(1)} %</span>
            </span>
            <button
              type="button"
              className="button"
              aria-label={`Take off stroke ${k + 1}`}
              onClick={() => onChange(strokes.filter((_, other) => other !== k))}
            >
              Take off
            </button>
          </li>
        ))
        .reverse()}
    </ul>
  );
}

function strokeSaid({ way, value, color }: Brushed): string {
  const title = WAYS.find(([key]) => key === way)?.[1] ?? way;
  if (way === "soften" || way === "erase") return title;
  return `${title} ${color ? color.toUpperCase() : value.toFixed(2)}`;
}
