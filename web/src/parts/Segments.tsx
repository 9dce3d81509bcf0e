import { ToggleGroup } from "radix-ui";

type SegmentsProps<T extends string> = {
  label: string;
  options: readonly (readonly [T, string])[];
  value: string; // one of them, or none yet
  onChange: (value: T) => void;
};

/** One choice of a few, all of them in sight. */
export function Segments<T extends string>({ label, options, value, onChange }: SegmentsProps<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => {
        const chosen = options.find(([key]) => key === next);
        if (chosen) onChange(chosen[0]);
      }}
      className="inline-flex shrink-0 overflow-hidden rounded border border-hair bg-sheet"
    >
      {options.map(([key, title]) => (
        <ToggleGroup.Item
          key={key}
          value={key}
          className="h-6 cursor-pointer px-2 whitespace-nowrap text-ink2
            focus-visible:-outline-offset-2 data-[state=on]:bg-ink data-[state=on]:text-paper"
        >
          {title}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
