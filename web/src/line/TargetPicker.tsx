import { Popover } from "radix-ui";
import { type KeyboardEvent, type ReactNode, useId, useState } from "react";
import type { Target } from "../api/client";
import { useTargets } from "../api/queries";
import { Holes } from "./Holes";

type TargetPickerProps = {
  label: string;
  chosen: string[];
  first: string[]; // stand above the others: the usual ones
  isMany?: boolean; // stays open, so that several are ticked
  className?: string;
  children: ReactNode; // what the button says
  onPick: (key: string) => void;
};

/**
 * Every target with its packing drawn, the usual ones first; words in any order find one by its
 * title, its key or the words in its files' names.
 */
export function TargetPicker(props: TargetPickerProps) {
  const { label, isMany = false, className = "", children } = props;
  const [isOpen, setOpen] = useState(false);
  const list = useId();
  return (
    <Popover.Root open={isOpen} onOpenChange={setOpen}>
      <Popover.Trigger
        role="combobox"
        aria-label={label}
        aria-haspopup="listbox"
        aria-expanded={isOpen}
        aria-controls={isOpen ? list : undefined}
        className={`field inline-flex cursor-pointer items-center justify-between gap-1 text-left
          aria-expanded:border-copper ${className}`}
      >
        <span className="min-w-0 truncate">{children}</span>
        <span aria-hidden className="shrink-0 text-[9px] text-ink2">
          ▼
        </span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={2}
          collisionPadding={8}
          aria-label={label}
          className="z-40 flex max-h-[min(60vh,var(--radix-popover-content-available-height))]
            w-[440px] flex-col border border-hair bg-paper text-ink shadow-md"
        >
          <List
            {...props}
            id={list}
            onPick={(key) => {
              props.onPick(key);
              if (!isMany) setOpen(false);
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function List({
  label,
  chosen,
  first,
  isMany = false,
  id,
  onPick,
}: TargetPickerProps & { id: string }) {
  const { data: rows = [] } = useTargets();
  const [sought, setSought] = useState("");
  const [wanted, setWanted] = useState<string | null>(null);
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const [above] = useState(first); // as it was opened, so that no line moves under the pointer
  const isFirst = (key: string) => above.includes(key);
  const found = rows
    .filter(({ target }) => words.every((word) => textOf(target).includes(word)))
    .sort((a, b) => Number(isFirst(b.target.key)) - Number(isFirst(a.target.key)));
  const at = Math.max(
    0,
    found.findIndex(({ target }) => target.key === (wanted ?? (isMany ? null : chosen[0]))),
  );
  const active = found[at]?.target.key;
  const handleKey = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) setWanted(found[(at + step + found.length) % found.length]?.target.key ?? null);
    else if (event.key === "Enter" && active) onPick(active);
    else return;
    event.preventDefault();
  };
  return (
    <>
      <input
        type="search"
        role="combobox"
        aria-expanded
        aria-label={`Search in ${label.toLowerCase()}`}
        aria-controls={id}
        aria-activedescendant={active && `${id} ${active}`}
        placeholder="Search"
        className="field m-2"
        value={sought}
        onChange={(e) => {
          setSought(e.target.value);
          setWanted(null);
        }}
        onKeyDown={handleKey}
      />
      <div
        id={id}
        role="listbox"
        aria-label={label}
        aria-multiselectable={isMany}
        className="min-h-0 overflow-auto border-t border-hair py-1"
      >
        {found.map(({ target, is_own }) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents lint/a11y/useFocusableInteractive: keys are the field's
          <div
            key={target.key}
            id={`${id} ${target.key}`}
            data-key={target.key}
            role="option"
            aria-selected={chosen.includes(target.key)}
            ref={target.key === active ? seen : null}
            className={`flex cursor-pointer items-center gap-1.5 py-1 pr-3 pl-1.5
              ${target.key === active ? "bg-wash" : ""}`}
            onPointerMove={() => setWanted(target.key)}
            onClick={() => onPick(target.key)}
          >
            <span aria-hidden className="w-3 shrink-0 text-copper">
              {chosen.includes(target.key) && "✓"}
            </span>
            <span className="min-w-0 grow">
              {is_own && "◆ "}
              {target.title}
            </span>
            <Holes target={target} />
          </div>
        ))}
      </div>
      {!found.length && <p className="px-3 pb-2 text-ink2">No target is called so.</p>}
    </>
  );
}

const seen = (line: HTMLElement | null) => {
  line?.scrollIntoView({ block: "nearest" });
};

/** What a target is found by. */
const textOf = ({ title, key, files }: Target) =>
  [title, title.replaceAll("·", ""), key, ...files.map(({ word }) => word)].join(" ").toLowerCase();
