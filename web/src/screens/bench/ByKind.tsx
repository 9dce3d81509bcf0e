import type { ReactNode } from "react";
import type { Control, TextureSet } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { ControlRow, NumberControl } from "../../parts/NumberControl";
import { ColorCode, ColorOrNone } from "./colorControls";
import type { Edit } from "./edit";
import { PicksControl } from "./PicksControl";
import { isNumber, type Kept, numbersIn, picksIn, wordsIn } from "./params";
import { SpectrumStrip } from "./SpectrumStrip";

export type Told = {
  master: TextureSet["masters"][number];
  edit: Edit;
  kept: Kept;
  field: Control;
  node?: string;
  isMask?: boolean;
};

type KindProps = Told & {
  current: unknown;
  said: { label: string; plain: string };
  /** Show a value while it moves, and keep it once it stands. */
  onMove: (value: unknown) => void;
  onDone: (value: unknown) => void;
};

/** The control of one parameter, drawn by its kind. */
export function ByKind(props: Told) {
  const { field, kept, edit } = props;
  const Kind = KINDS[field.kind];
  return (
    <Kind
      {...props}
      current={kept.params[field.name] ?? field.default}
      said={{ label: field.title, plain: field.description }}
      onMove={(value) => edit.move(kept.next(field.name, value))}
      onDone={(value) => edit.keep(kept.next(field.name, value))}
    />
  );
}

const KINDS: Record<Control["kind"], (props: KindProps) => ReactNode> = {
  picks: PicksOf,
  bands: Bands,
  switch: Switch,
  color: OneColor,
  choice: OneOf,
  number: Amount,
  whole: Amount,
  value: Constant,
};

function PicksOf({ said, current, master, isMask, node = "", edit }: KindProps) {
  const about = isMask ? "mask" : master.key;
  return <PicksControl label={said.label} picks={picksIn(current)} {...{ about, node, edit }} />;
}

function Bands({ said, field, current, onMove, onDone }: KindProps) {
  return (
    <SpectrumStrip
      {...said}
      sizes={field.sizes}
      values={numbersIn(current)}
      initial={numbersIn(field.default)}
      {...{ onMove, onDone }}
    />
  );
}

const startOf = ({ field, current, onDone }: KindProps) => ({
  isAtStart: current === field.default,
  onReset: () => onDone(field.default),
});

function Switch(props: KindProps) {
  const { said, current, onDone } = props;
  return (
    <ControlRow {...said} {...startOf(props)}>
      <span className="min-w-0 grow">
        <input
          type="checkbox"
          aria-label={said.label}
          checked={current === true}
          onChange={(e) => onDone(e.target.checked)}
        />
      </span>
    </ControlRow>
  );
}

function OneColor(props: KindProps) {
  const { said, current, node = "", onDone } = props;
  return (
    <ControlRow {...said} {...startOf(props)}>
      <ColorOrNone label={said.label} value={wordsIn(current)} {...{ node, onDone }} />
    </ControlRow>
  );
}

function OneOf(props: KindProps) {
  const { said, field, current, onDone } = props;
  return (
    <ControlRow {...said} {...startOf(props)}>
      <Choice
        label={said.label}
        className="min-w-0 grow"
        options={field.options.map(({ key, title }) => [key, title] as const)}
        value={String(current)}
        onChange={onDone}
      />
    </ControlRow>
  );
}

function Amount(props: KindProps) {
  const { field } = props;
  const range = [field.minimum ?? 0, field.maximum ?? 1] as const;
  const initial = isNumber(field.default) ? field.default : range[0];
  return <Slider {...props} {...{ range, initial }} unit={field.unit ?? range.join(" … ")} />;
}

/** A constant: the range and the start are the master's own. */
function Constant(props: KindProps) {
  const { said, current, master, onMove, onDone } = props;
  const { low, high, absent } = master;
  if (isNumber(current))
    return <Slider {...props} range={[low, high]} initial={absent[0]} unit={`${low} … ${high}`} />;
  const value = numbersIn(current);
  if (value.length === 0 || low !== 0) return null;
  const isAtStart = value.every((part, k) => part === absent[k]);
  return (
    <ControlRow {...said} isAtStart={isAtStart} onReset={() => onDone(absent)}>
      <ColorCode label={said.label} {...{ value, onMove, onDone }} />
    </ControlRow>
  );
}

type SliderProps = KindProps & { range: readonly [number, number]; initial: number; unit: string };

/** A number, with the names that there are for some of its values. */
function Slider({ said, field, current, range, initial, unit, onMove, onDone }: SliderProps) {
  if (!isNumber(current)) return null;
  const { scale, marks } = field;
  const slider = (
    <NumberControl
      {...said}
      unit={unit}
      low={range[0] * scale}
      high={range[1] * scale}
      whole={field.kind === "whole"}
      value={current * scale}
      initial={initial * scale}
      onMove={(value) => onMove(value / scale)}
      onDone={(value) => onDone(value / scale)}
    />
  );
  if (marks.length === 0) return slider;
  return (
    <>
      {slider}
      <div role="group" aria-label={`${said.label}, by name`} className="flex gap-1 pl-[92px]">
        {marks.map(({ name, value }) => (
          <button
            key={name}
            type="button"
            className="button"
            aria-pressed={current === value}
            onClick={() => onDone(value)}
          >
            {name}
          </button>
        ))}
      </div>
    </>
  );
}
