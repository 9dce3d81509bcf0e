import { Slider } from "radix-ui";
import { TypedField } from "./TypedField";

export type NumberControlProps = {
  label: string; plain: string; unit: string; low: number; high: number; value: number; initial: number; whole?: boolean;
  onMove: (value: number) => void; onDone: (value: number) => void;
};

/** A slider with its number to type, its unit and a reset. `onMove` follows the hand, `onDone` is one step of undo. */
export function NumberControl({ label, plain, unit, low, high, value, initial, whole, onMove, onDone }: NumberControlProps) {
  const step = whole ? 1 : (high - low) / 400;
  const digits = whole ? 0 : high - low < 3 ? 3 : 2;
  const handleTyped = (text: string) => {
    const typed = Number(text.replace(",", "."));
    if (text.trim() && Number.isFinite(typed)) onDone(Math.min(high, Math.max(low, typed)));
  };
  return (
    <ControlRow label={label} plain={plain} isAtStart={value === initial} onReset={() => onDone(initial)}>
      <Slider.Root className="relative flex h-5 grow touch-none items-center" min={low} max={high} step={step} value={[value]} onValueChange={([v]) => onMove(v)} onValueCommit={([v]) => onDone(v)}>
        <Slider.Track className="relative h-[3px] grow rounded bg-hair"><Slider.Range className="absolute h-full rounded bg-copper" /></Slider.Track>
        <Slider.Thumb aria-label={label} aria-valuetext={`${value.toFixed(digits)} ${unit}`} className="block size-[15px] rounded-full border-2 border-copper bg-sheet" />
      </Slider.Root>
      <TypedField label={`${label}, number`} inputMode="decimal" value={value.toFixed(digits)} className="w-14 text-right" onDone={handleTyped} />
      <span className="w-[62px] text-sm text-ink2">{unit}</span>
    </ControlRow>
  );
}

type ControlRowProps = { label: string; plain: string; isAtStart: boolean; onReset: () => void; children: React.ReactNode };

/** What every control shares: its name, what it does in a sentence, and its reset. */
export function ControlRow({ label, plain, isAtStart, onReset, children }: ControlRowProps) {
  return (
    <div className="flex items-center gap-2" title={plain}>
      <span className="w-[84px] shrink-0">{label}</span>
      {children}
      <button className="button w-[26px] justify-center px-0" aria-label={`Reset ${label}`} title={`Reset ${label}`} disabled={isAtStart} onClick={onReset}>↺</button>
    </div>
  );
}
