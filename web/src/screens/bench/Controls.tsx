import type { Operation, TextureSet } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { ControlRow, NumberControl } from "../../parts/NumberControl";
import { type Edit, withParam } from "./edit";
import { type Pick, PicksControl } from "./PicksControl";
import { SpectrumStrip } from "./SpectrumStrip";

type Master = TextureSet["masters"][number];
/** What a parameter's schema says of itself; the controls are drawn from it. */
type Field = { title?: string; description?: string; minimum?: number; maximum?: number; default?: unknown; type?: string; unit?: string; scale?: number; sizes?: number[]; enum?: string[]; titles?: string[] };

/** The controls of one master, from its operation's own table. */
export function Controls({ master, operation, edit }: { master: Master; operation: Operation; edit: Edit }) {
  const fields = Object.entries((operation.params as { properties?: Record<string, Field> }).properties ?? {});
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      {fields.map(([name, field]) => <FieldControl key={name} name={name} field={field} master={master} edit={edit} />)}
    </div>
  );
}

function FieldControl({ name, field, master, edit }: { name: string; field: Field; master: Master; edit: Edit }) {
  const { recipe, move, keep } = edit;
  const node = master.node!;
  const current = recipe.nodes?.[node]?.params?.[name] ?? field.default;
  const next = (value: unknown) => withParam(recipe, node, name, value);
  const said = { label: field.title ?? name, plain: field.description ?? "" };
  if (name === "picks") return <PicksControl label={said.label} master={master.key} node={node} picks={(current ?? []) as Pick[]} edit={edit} />;
  if (field.sizes)
    return <SpectrumStrip {...said} sizes={field.sizes} values={current as number[]} initial={field.default as number[]} onMove={(v) => move(next(v))} onDone={(v) => keep(next(v))} />;
  const reset = { isAtStart: current === field.default, onReset: () => keep(next(field.default)) };
  if (field.type === "boolean")
    return <ControlRow {...said} {...reset}><span className="grow"><input type="checkbox" aria-label={said.label} checked={Boolean(current)} onChange={(e) => keep(next(e.target.checked))} /></span></ControlRow>;
  if (field.enum) {
    const options = field.enum.map((key, k) => [key, field.titles?.[k] ?? key] as const);
    return <ControlRow {...said} {...reset}><Choice label={said.label} className="grow" options={options} value={String(current)} onChange={(v) => keep(next(v))} /></ControlRow>;
  }
  if (typeof current !== "number") return null;
  const scale = field.scale ?? 1;
  const isOwn = field.maximum === undefined; // a constant: the range and the start are the master's own
  const [low, high, initial] = isOwn ? [master.low, master.high, master.absent[0]] : [field.minimum!, field.maximum!, field.default as number];
  return (
    <NumberControl {...said} unit={field.unit ?? `${master.low} … ${master.high}`} low={low * scale} high={high * scale} whole={field.type === "integer"} value={current * scale} initial={initial * scale}
      onMove={(v) => move(next(v / scale))} onDone={(v) => keep(next(v / scale))} />
  );
}
