type ChoiceProps<T extends string> = { label: string; options: readonly (readonly [T, string])[]; value: T; onChange: (value: T) => void; className?: string };

/** One choice of many, by the browser's own list. */
export function Choice<T extends string>({ label, options, value, onChange, className = "max-w-44" }: ChoiceProps<T>) {
  return (
    <select aria-label={label} title={label} className={`field ${className}`} value={value} onChange={(e) => onChange(e.target.value as T)}>
      {options.map(([key, title]) => <option key={key} value={key}>{title}</option>)}
    </select>
  );
}
