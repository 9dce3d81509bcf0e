import { useRef } from "react";

type TypedFieldProps = Omit<React.ComponentProps<"input">, "value" | "defaultValue" | "onBlur" | "onKeyDown" | "onChange"> & { label: string; value: string; onDone: (text: string) => void };

/** A field that hands over what was typed once: on Enter, or when the hand leaves it. Escape brings back what stood there. */
export function TypedField(props: TypedFieldProps) {
  return <Typed key={props.value} {...props} />;
}

function Typed({ label, value, onDone, className = "", ...rest }: TypedFieldProps) {
  const handed = useRef(value); // Enter and leaving would both hand over, while the answer is on its way
  const handleDone = (field: HTMLInputElement) => {
    if (field.value === handed.current) return;
    handed.current = field.value;
    onDone(field.value);
  };
  return (
    <input aria-label={label} defaultValue={value} className={`field ${className}`} onBlur={(e) => handleDone(e.currentTarget)}
      onKeyDown={(e) => {
        if (e.key === "Enter") handleDone(e.currentTarget);
        else if (e.key === "Escape") e.currentTarget.value = handed.current;
      }} {...rest} />
  );
}
