import { Select } from "radix-ui";
import { useRef, useState } from "react";
import { Hint } from "./Hint";
import { nonce } from "./nonce";

export type Options<T extends string> = readonly (readonly [T, string])[];

/**
 * Options from a table that must name every value there is: a new one of the server's is a type
 * error until it has a title.
 */
export function optionsOf<T extends string>(titles: Record<T, string>): Options<T> {
  const options: [T, string][] = [];
  for (const key in titles) options.push([key, titles[key]]);
  return options;
}

type ChoiceProps<T extends string> = {
  label: string;
  options: Options<T>;
  value: string; // one of them, or none yet
  onChange: (value: T) => void;
  className?: string;
  group?: { title: string; options: Options<T>; isDisabled?: boolean };
};

const NONE = "none yet"; // the list knows no empty value

/** One choice of many; `group` stands below the others under a title. Letters find an option. */
export function Choice<T extends string>({
  label,
  options,
  value,
  onChange,
  className = "max-w-44",
  group,
}: ChoiceProps<T>) {
  const [isNear, setNear] = useState(false);
  const all = group ? [...options, ...group.options] : options;
  const title = all.find(([key]) => key === value)?.[1] ?? value;
  return (
    <Select.Root
      value={value || NONE}
      onValueChange={(next) => {
        const chosen = all.find(([key]) => (key || NONE) === next);
        if (chosen) onChange(chosen[0]);
      }}
    >
      <Hint says={title.length > 18 ? `${label}: ${title}` : label}>
        <Select.Trigger
          aria-label={label}
          data-key={value}
          className={`field inline-flex cursor-pointer items-center justify-between gap-1
            text-left aria-expanded:border-copper disabled:cursor-default disabled:opacity-50
            ${className}`}
          onFocus={() => setNear(true)}
          onPointerEnter={() => setNear(true)}
        >
          <span className="min-w-0 truncate">
            <Select.Value>{title}</Select.Value>
          </span>
          <Select.Icon className="shrink-0 text-[9px] text-ink2">▼</Select.Icon>
        </Select.Trigger>
      </Hint>
      {isNear && <List label={label} options={options} group={group} />}
    </Select.Root>
  );
}

/**
 * What there is to choose from; made when the hand or the keyboard comes near, as rows can be many.
 */
function List<T extends string>({
  label,
  options,
  group,
}: Pick<ChoiceProps<T>, "label" | "options" | "group">) {
  const wasPointed = useRef(false);
  return (
    <Select.Portal>
      <Select.Content
        aria-label={label}
        position="popper"
        sideOffset={2}
        onPointerUp={() => {
          wasPointed.current = true;
        }}
        onCloseAutoFocus={(event) => {
          // keys go back to the place, not into the list
          if (wasPointed.current) event.preventDefault();
          wasPointed.current = false;
        }}
        className="z-40 max-h-[min(60vh,var(--radix-select-content-available-height))]
          min-w-[var(--radix-select-trigger-width)] border border-hair bg-paper py-1 text-ink
          shadow-md"
      >
        <Select.Viewport nonce={nonce()}>
          {options.map(([key, title]) => (
            <Option key={key} value={key} title={title} />
          ))}
          {group && (
            <Select.Group>
              <Select.Label className="px-2 pt-1.5 text-sm text-ink2">{group.title}</Select.Label>
              {group.options.map(([key, title]) => (
                <Option key={key} value={key} title={title} isDisabled={group.isDisabled} />
              ))}
            </Select.Group>
          )}
        </Select.Viewport>
      </Select.Content>
    </Select.Portal>
  );
}

type OptionProps = { value: string; title: string; isDisabled?: boolean };

function Option({ value, title, isDisabled = false }: OptionProps) {
  return (
    <Select.Item
      value={value || NONE}
      disabled={isDisabled}
      data-key={value}
      className="flex cursor-pointer items-center gap-1.5 py-0.5 pr-3 pl-1.5 outline-none
        data-[disabled]:cursor-default data-[disabled]:text-ink2 data-[highlighted]:bg-wash"
    >
      <span className="w-3 text-copper">
        <Select.ItemIndicator>✓</Select.ItemIndicator>
      </span>
      <Select.ItemText>{title}</Select.ItemText>
    </Select.Item>
  );
}
