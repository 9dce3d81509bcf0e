import { useEffect, useRef } from "react";

type TypedFieldProps = Omit<
  React.ComponentProps<"input">,
  "value" | "defaultValue" | "onBlur" | "onKeyDown" | "onChange"
> & { label: string; value: string; onDone: (text: string) => unknown };

/**
 * A field that hands over what was typed once: on Enter, or when the hand leaves it. Escape brings
 * back what stood there. `onDone` answers false to what it refuses.
 */
export function TypedField({ label, value, onDone, className = "", ...rest }: TypedFieldProps) {
  const input = useRef<HTMLInputElement>(null);
  // Enter and leaving would both hand over, while the answer is on its way
  const handed = useRef(value);
  useEffect(() => {
    handed.current = value;
    if (input.current) input.current.value = value;
  }, [value]);
  const handleDone = (field: HTMLInputElement) => {
    if (field.value === handed.current) return;
    if (onDone(field.value) !== false) handed.current = field.value;
  };
  return (
    <input
      ref={input}
      aria-label={label}
      defaultValue={value}
      className={`field ${className}`}
      onBlur={(e) => handleDone(e.currentTarget)}
      onKeyDown={(e) => {
        if (e.key === "Enter") handleDone(e.currentTarget);
        else if (e.key === "Escape") e.currentTarget.value = handed.current;
      }}
      {...rest}
    />
  );
}
