import { useState } from "react";
import { TypedField } from "./TypedField";

type NumberFieldProps = {
  label: string;
  value: string;
  low: number;
  high: number;
  unit?: string;
  isEmptyTaken?: boolean;
  placeholder?: string;
  className?: string;
  onDone: (value: number | null) => void;
};

/**
 * A number to type. What is none, or lies outside its range, is refused with the range and never
 * bent into it.
 */
export function NumberField({
  label,
  value,
  low,
  high,
  unit = "",
  isEmptyTaken = false,
  placeholder,
  className = "",
  onDone,
}: NumberFieldProps) {
  const [refused, setRefused] = useState<string | null>(null);
  const handleTyped = (text: string) => {
    const typed = Number(text.replace(",", "."));
    if (!text.trim() && isEmptyTaken) {
      setRefused(null);
      onDone(null);
      return;
    }
    if (!text.trim() || !Number.isFinite(typed) || typed < low || typed > high) {
      setRefused(
        `${label.replace(/, number$/, "")} takes ${low} to ${high}${unit && ` ${unit}`}, not “${text}”. It stays at ${value || "not known"}.`,
      );
      return false;
    }
    setRefused(null);
    onDone(typed);
  };
  return (
    <>
      <TypedField
        label={label}
        inputMode="decimal"
        aria-invalid={refused !== null}
        value={value}
        placeholder={placeholder}
        className={className}
        onDone={handleTyped}
      />
      {refused && (
        <span role="alert" className="order-last basis-full text-sm text-stop">
          {refused}
        </span>
      )}
    </>
  );
}
