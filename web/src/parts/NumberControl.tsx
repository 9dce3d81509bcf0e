import { Slider } from "radix-ui";
import { useRef } from "react";
import { Hint } from "./Hint";
import { NumberField } from "./NumberField";

export type NumberControlProps = {
  label: string;
  plain: string;
  unit: string;
  low: number;
  high: number;
  value: number;
  initial: number;
  whole?: boolean;
  /** The largest number to type, where the slider ends before it. */
  limit?: number;
  onMove: (value: number) => void;
  onDone: (value: number) => void;
};

/**
 * A slider with its number to type, its unit and a reset. `onMove` follows the hand, `onDone` is
 * one step of undo: a drag, or a key for as long as it is held.
 */
export function NumberControl({
  label,
  plain,
  unit,
  low,
  high,
  value,
  initial,
  whole,
  limit = high,
  onMove,
  onDone,
}: NumberControlProps) {
  const step = whole ? 1 : (high - low) / 400;
  const fraction = high - low < 3 ? 3 : 2;
  const digits = whole ? 0 : fraction;
  // where hand or key has led; it may be let go before that is drawn
  const led = useRef<number | null>(null);
  const handleLet = () => {
    const to = led.current;
    led.current = null;
    if (to !== null) onDone(to);
  };
  return (
    <ControlRow
      label={label}
      plain={plain}
      isAtStart={value === initial}
      onReset={() => onDone(initial)}
    >
      <Slider.Root
        className="relative flex h-5 min-w-0 flex-1 touch-none items-center"
        min={low}
        max={high}
        step={step}
        value={[Math.min(value, high)]}
        onValueChange={([v]) => {
          led.current = v;
          onMove(v);
        }}
        onPointerUp={handleLet}
        onPointerCancel={handleLet}
        onKeyUp={handleLet}
        onBlur={handleLet}
      >
        <Slider.Track className="relative h-[3px] grow rounded bg-hair">
          <Slider.Range className="absolute h-full rounded bg-copper" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          aria-valuetext={`${value.toFixed(digits)} ${unit}`}
          className="block size-[15px] rounded-full border-2 border-copper bg-sheet"
        />
      </Slider.Root>
      <NumberField
        label={`${label}, number`}
        low={low}
        high={limit}
        unit={unit}
        value={value.toFixed(digits)}
        className="w-14 text-right"
        onDone={(typed) => typed !== null && onDone(typed)}
      />
      <span className="w-[62px] text-sm text-ink2">{unit}</span>
    </ControlRow>
  );
}

type ControlRowProps = {
  label: string;
  plain: string;
  isAtStart: boolean;
  onReset: () => void;
  children: React.ReactNode;
};

/** What every control shares: its name, what it does in a sentence, and its reset. */
export function ControlRow({ label, plain, isAtStart, onReset, children }: ControlRowProps) {
  return (
    <Hint says={plain}>
      <div className="flex flex-wrap items-center gap-2">
        <span className="w-[84px] shrink-0">{label}</span>
        {children}
        <Hint says={`Reset ${label}`}>
          <button
            type="button"
            className="button w-[26px] justify-center px-0"
            aria-label={`Reset ${label}`}
            disabled={isAtStart}
            onClick={onReset}
          >
            ↺
          </button>
        </Hint>
      </div>
    </Hint>
  );
}
