import { type ReactNode, useState } from "react";
import { toggled } from "./choice";

type ChoicesProps = {
  title: string;
  rows: { key: string; name: string; note?: ReactNode }[];
  chosen: string[];
  onChoice: (keys: string[]) => void;
};

const SEARCHED_FROM = 12;
const BOXED_FROM = 40; // a longer list scrolls by itself, so that what stands below it is in sight

/** What can be ticked, all or none of what is shown at once; long lists can be searched. */
export function Choices({ title, rows, chosen, onChoice }: ChoicesProps) {
  const [sought, setSought] = useState("");
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = rows.filter(({ key, name }) =>
    words.every((word) => `${name} ${key}`.toLowerCase().includes(word)),
  );
  const keys = new Set(shown.map(({ key }) => key));
  const others = chosen.filter((key) => !keys.has(key));
  const isBoxed = rows.length >= BOXED_FROM;
  return (
    <fieldset className="mb-4 min-w-0">
      <legend className="mb-1 flex w-full items-baseline gap-2 font-semibold">
        {title}
        {isBoxed && (
          <span className="text-sm font-normal text-ink2">
            {chosen.length} of {rows.length}
          </span>
        )}
        <button
          type="button"
          className="ml-auto text-sm font-normal text-ink2 underline"
          aria-label={`${title}: all`}
          onClick={() => onChoice([...others, ...keys])}
        >
          all
        </button>
        <button
          type="button"
          className="text-sm font-normal text-ink2 underline"
          aria-label={`${title}: none`}
          onClick={() => onChoice(others)}
        >
          none
        </button>
      </legend>
      {rows.length >= SEARCHED_FROM && (
        <input
          type="search"
          className="field mb-1 w-full"
          aria-label={`Search ${title.toLowerCase()}`}
          placeholder="Search"
          value={sought}
          onChange={(e) => setSought(e.target.value)}
        />
      )}
      <div className={isBoxed ? "max-h-[45vh] overflow-auto border border-hair px-2" : ""}>
        {shown.map(({ key, name, note }) => (
          <label key={key} className="flex cursor-pointer items-start gap-2 py-[3px]">
            <input
              type="checkbox"
              className="mt-[3px]"
              checked={chosen.includes(key)}
              onChange={() => onChoice(toggled(chosen, key))}
            />
            <span>
              {name}
              {note && <span className="mt-0.5 block">{note}</span>}
            </span>
          </label>
        ))}
      </div>
      {!shown.length && <p className="text-sm text-ink2">None is called so.</p>}
    </fieldset>
  );
}
