import { useState } from "react";
import { ColorInput } from "../../parts/ColorInput";
import { codeOf, linearOf } from "../../parts/colors";
import { TypedField } from "../../parts/TypedField";
import { useView } from "./view";

type ColorCodeProps = {
  label: string;
  /** In linear light, as masters hold it. */
  value: number[];
  onMove: (value: number[]) => void;
  onDone: (value: number[]) => void;
};

/** A color that is known: chosen from the browser's own field, or its code typed. */
export function ColorCode({ label, value, onMove, onDone }: ColorCodeProps) {
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

type ColorOrNoneProps = {
  label: string;
  node: string;
  value: string | null;
  onDone: (color: string) => void;
};

/** One color, or none yet: chosen from the browser's own field, or with a click on the picture. */
export function ColorOrNone({ label, node, value, onDone }: ColorOrNoneProps) {
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
