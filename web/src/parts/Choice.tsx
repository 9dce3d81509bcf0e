type ChoiceProps<T extends string> = {
  label: string;
  options: readonly (readonly [T, string])[];
  value: T;
  onChange: (value: T) => void;
  className?: string;
  group?: { title: string; options: readonly (readonly [T, string])[] };
};

/** One choice of many, by the browser's own list; `group` stands below the others under a title. */
export function Choice<T extends string>({
  label,
  options,
  value,
  onChange,
  className = "max-w-44",
  group,
}: ChoiceProps<T>) {
  return (
    <select
      aria-label={label}
      title={label}
      className={`field ${className}`}
      value={value}
      onChange={(e) => onChange(e.target.value as T)}
    >
      {options.map(([key, title]) => (
        <option key={key} value={key}>
          {title}
        </option>
      ))}
      {group && (
        <optgroup label={group.title}>
          {group.options.map(([key, title]) => (
            <option key={key} value={key}>
              {title}
            </option>
          ))}
        </optgroup>
      )}
    </select>
  );
}
