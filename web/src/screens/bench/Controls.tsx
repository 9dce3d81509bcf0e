import { useState } from "react";
import type { Operation, TextureSet } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { ColorInput } from "../../parts/ColorInput";
import { codeOf, linearOf } from "../../parts/colors";
import { ControlRow, NumberControl } from "../../parts/NumberControl";
import { TypedField } from "../../parts/TypedField";
import type { Edit } from "./edit";
import { PicksControl } from "./PicksControl";
import { type Field, fieldsOf, isMoved, type Kept, ofNode } from "./params";
import type { Pick } from "./picks";
import { SpectrumStrip } from "./SpectrumStrip";
import { useView } from "./view";

type Master = TextureSet["masters"][number];
type ControlsProps = {
  master: Master;
  node: string;
  operation: Operation;
  edit: Edit;
  isMask?: boolean;
};

/**
 * The controls of one step, from its operation's own table; what is seldom moved stays folded away
 * until it was.
 */
export function Controls({ master, node, operation, edit, isMask = false }: ControlsProps) {
  const inputs = edit.recipe.nodes[node]?.inputs ?? {};
  const fields = fieldsOf(operation.params).filter(
    ([, field]) => !field.needs || field.needs in inputs, // what would not act is not shown
  );
  return <Fields {...{ master, edit, isMask, fields }} node={node} kept={ofNode(edit, node)} />;
}

type FieldsProps = {
  master: Master;
  edit: Edit;
  kept: Kept;
  fields: [string, Field][];
  node?: string;
  isMask?: boolean;
};

/** Controls of some parameters, wherever their values are kept. */
export function Fields({ fields, kept, ...rest }: FieldsProps) {
  const seldom = fields.filter(([, field]) => field.more);
  const [isOpen, setOpen] = useState(() => seldom.some(([name, f]) => isMoved(kept, name, f)));
  const shown = fields.filter(([, field]) => !field.more || isOpen);
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      {shown.map(([name, field]) => (
        <FieldControl key={name} {...{ name, field, kept }} {...rest} />
      ))}
      {seldom.length > 0 && (
        <button
          type="button"
          className="self-start text-sm text-ink2 underline"
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
        >
          {isOpen
            ? "Less"
            : `More: ${seldom.map(([, field]) => field.title?.toLowerCase()).join(", ")}`}
        </button>
      )}
    </div>
  );
}

type FieldControlProps = Omit<FieldsProps, "fields"> & { name: string; field: Field };

function FieldControl({ name, field, kept, master, node = "", edit, isMask }: FieldControlProps) {
  const { move, keep } = edit;
  const current = kept.params[name] ?? field.default;
  const next = (value: unknown) => kept.next(name, value);
  const said = { label: field.title ?? name, plain: field.description ?? "" };
  if (name === "picks")
    return (
      <PicksControl
        label={said.label}
        about={isMask ? "mask" : master.key}
        node={node}
        picks={(current ?? []) as Pick[]}
        edit={edit}
      />
    );
  if (field.sizes)
    return (
      <SpectrumStrip
        {...said}
        sizes={field.sizes}
        values={current as number[]}
        initial={field.default as number[]}
        onMove={(v) => move(next(v))}
        onDone={(v) => keep(next(v))}
      />
    );
  const reset = { isAtStart: current === field.default, onReset: () => keep(next(field.default)) };
  if (field.type === "boolean")
    return (
      <ControlRow {...said} {...reset}>
        <span className="grow">
          <input
            type="checkbox"
            aria-label={said.label}
            checked={Boolean(current)}
            onChange={(e) => keep(next(e.target.checked))}
          />
        </span>
      </ControlRow>
    );
  if (field.pick)
    return (
      <ControlRow {...said} {...reset}>
        <ColorField
          label={said.label}
          node={node}
          value={current as string | null}
          onDone={(color) => keep(next(color))}
        />
      </ControlRow>
    );
  if (field.enum) {
    const options = field.enum.map((key, k) => [key, field.titles?.[k] ?? key] as const);
    return (
      <ControlRow {...said} {...reset}>
        <Choice
          label={said.label}
          className="grow"
          options={options}
          value={String(current)}
          onChange={(v) => keep(next(v))}
        />
      </ControlRow>
    );
  }
  if (Array.isArray(current) && master.low === 0)
    return (
      <ControlRow
        {...said}
        isAtStart={same(current, master.absent)}
        onReset={() => keep(next(master.absent))}
      >
        <ColorCode
          label={said.label}
          value={current}
          onMove={(v) => move(next(v))}
          onDone={(v) => keep(next(v))}
        />
      </ControlRow>
    );
  if (typeof current !== "number") return null;
  const scale = field.scale ?? 1;
  // a constant: the range and the start are the master's own
  const isOwn = field.maximum === undefined;
  const [low, high, initial] = isOwn
    ? [master.low, master.high, master.absent[0]]
    : [field.minimum ?? 0, field.maximum ?? 1, field.default as number];
  const slider = (
    <NumberControl
      {...said}
      unit={field.unit ?? `${master.low} … ${master.high}`}
      low={low * scale}
      high={high * scale}
      whole={field.type === "integer"}
      value={current * scale}
      initial={initial * scale}
      onMove={(v) => move(next(v / scale))}
      onDone={(v) => keep(next(v / scale))}
    />
  );
  if (!field.marks) return slider;
  return (
    <>
      {slider}
      <div role="group" aria-label={`${said.label}, by name`} className="flex gap-1 pl-[92px]">
        {field.marks.map(([name, value]) => (
          <button
            key={name}
            type="button"
            className="button"
            aria-pressed={current === value}
            onClick={() => keep(next(value))}
          >
            {name}
          </button>
        ))}
      </div>
    </>
  );
}

const same = (a: readonly number[], b: readonly number[]) => a.every((value, k) => value === b[k]);

type ColorCodeProps = {
  label: string;
  /** In linear light, as masters hold it. */
  value: number[];
  onMove: (value: number[]) => void;
  onDone: (value: number[]) => void;
};

/** A color that is known: chosen from the browser's own field, or its code typed. */
function ColorCode({ label, value, onMove, onDone }: ColorCodeProps) {
  const [wrong, setWrong] = useState<string | null>(null);
  const handleTyped = (typed: string) => {
    const linear = linearOf(typed);
    setWrong(linear ? null : typed);
    return linear ? onDone(linear) : false;
  };
  const told = (say: (value: number[]) => void) => (code: string) => {
    const linear = linearOf(code);
    if (linear) say(linear);
  };
  return (
    <span className="flex grow flex-wrap items-center gap-2">
      <ColorInput label={label} value={codeOf(value)} onMove={told(onMove)} onDone={told(onDone)} />
      <TypedField
        label={`${label}, code`}
        className="w-20"
        value={codeOf(value).toUpperCase()}
        onDone={handleTyped}
      />
      {wrong !== null && (
        <span role="alert" className="basis-full text-sm text-stop">
          “{wrong}” is no color. Type its code, such as #C08040.
        </span>
      )}
    </span>
  );
}

type ColorFieldProps = {
  label: string;
  node: string;
  value: string | null;
  onDone: (color: string) => void;
};

/** One color, or none yet: chosen from the browser's own field, or with a click on the picture. */
function ColorField({ label, node, value, onDone }: ColorFieldProps) {
  const picking = useView((view) => view.picking);
  const pick = useView((view) => view.pick);
  const isOn = picking?.node === node && picking.value === "color";
  const handlePick = () => pick(isOn ? null : { node, value: "color" });
  return (
    <span className="flex grow items-center gap-2">
      <ColorInput label={label} value={value?.toLowerCase() ?? "#808080"} onDone={onDone} />
      <span className="text-sm text-ink2">{value?.toUpperCase() ?? "none yet"}</span>
      <button
        type="button"
        className="button aria-pressed:border-copper aria-pressed:bg-wash"
        aria-pressed={isOn}
        onClick={handlePick}
      >
        From the picture
      </button>
    </span>
  );
}
