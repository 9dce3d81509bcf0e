import { NumberControl } from "../../parts/NumberControl";
import { type Edit, withParam } from "./edit";

/**
 * One number on three rulers: what a non-metal mirrors head-on, its index of refraction, its
 * specular level.
 */
const RULERS = [
  {
    label: "Mirrors",
    plain: "Share of the light that a non-metal mirrors, seen head-on.",
    unit: "%",
    low: 0,
    high: 16,
    from: (f0: number) => f0 * 100,
    to: (v: number) => v / 100,
  },
  {
    label: "Refraction",
    plain: "Index of refraction of what the surface is made of, in air.",
    unit: "n",
    low: 1,
    high: 2.33,
    from: (f0: number) => (1 + Math.sqrt(f0)) / (1 - Math.sqrt(f0)),
    to: (n: number) => ((n - 1) / (n + 1)) ** 2,
  },
  {
    label: "Level",
    plain: "Specular level: 0.5 is the usual 4 %, 1 is 8 %.",
    unit: "0 … 2",
    low: 0,
    high: 2,
    from: (f0: number) => f0 / 0.08,
    to: (v: number) => v * 0.08,
  },
] as const;

export function Reflectance({ node, value, edit }: { node: string; value: number; edit: Edit }) {
  const next = (f0: number) => withParam(edit.recipe, node, "value", f0);
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      {RULERS.map(({ from, to, ...ruler }) => (
        <NumberControl
          key={ruler.label}
          {...ruler}
          value={from(value)}
          initial={from(0.04)}
          onMove={(v) => edit.move(next(to(v)))}
          onDone={(v) => edit.keep(next(to(v)))}
        />
      ))}
    </div>
  );
}
