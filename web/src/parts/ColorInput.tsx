import { useEffect, useRef } from "react";

type ColorInputProps = {
  label: string;
  /** As #rrggbb. */
  value: string;
  onMove?: (code: string) => void;
  onDone: (code: string) => void;
};

/**
 * The browser's own field for a color. `onMove` follows the hand in it, `onDone` comes once it is
 * closed or let go.
 */
export function ColorInput({ label, value, onMove, onDone }: ColorInputProps) {
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (field.current) field.current.value = value;
  }, [value]);
  useEffect(() => {
    const input = field.current;
    const handleClose = () => input && onDone(input.value);
    input?.addEventListener("change", handleClose); // the library calls every move of it a change
    return () => input?.removeEventListener("change", handleClose);
  });
  return (
    <input
      ref={field}
      type="color"
      aria-label={label}
      defaultValue={value}
      onInput={(e) => onMove?.(e.currentTarget.value)}
      className="h-6 w-9 cursor-pointer border border-hair"
    />
  );
}
