import { DropdownMenu } from "radix-ui";

type MenuProps<T extends string> = {
  label: string;
  options: readonly (readonly [T, string])[];
  onPick: (value: T) => void;
};

/** A list of things that can be done; the first letters of one find it. */
export function Menu<T extends string>({ label, options, onPick }: MenuProps<T>) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger className="button aria-expanded:border-copper aria-expanded:bg-wash">
        {label} <span aria-hidden>▾</span>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={2}
          aria-label={label}
          className="z-30 max-h-[50vh] min-w-40 overflow-auto border border-hair bg-paper py-1
            text-ink shadow-md"
        >
          {options.map(([value, title]) => (
            <DropdownMenu.Item
              key={value}
              onSelect={() => onPick(value)}
              className="cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-wash"
            >
              {title}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
