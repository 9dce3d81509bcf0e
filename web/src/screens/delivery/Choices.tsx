import { type ReactNode, useState } from "react";
import { toggled } from "./choice";

type ChoicesProps = {
  title: string;
  rows: { key: string; name: string; note?: ReactNode }[];
  chosen: string[];
  isSearched?: boolean;
  onChoice: (keys: string[]) => void;
};

/** What can be ticked, all or none of it at once; long lists can be searched. */
export function Choices({ title, rows, chosen, isSearched = false, onChoice }: ChoicesProps) {
  const [sought, setSought] = useState("");
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = rows.filter(({ key, name }) =>
    words.every((word) => `${name} ${key}`.toLowerCase().includes(word)),
  );
  return (
    <fieldset className="mb-4 min-w-0">
      <legend className="mb-1 flex w-full items-baseline gap-2 font-semibold">
        {title}
        <button
          type="button"
          className="ml-auto text-sm font-normal text-ink2 underline"
          aria-label={`${title}: all`}
          onClick={() => onChoice(rows.map(({ key }) => key))}
        >
          all
        </button>
        <button
          type="button"
          className="text-sm font-normal text-ink2 underline"
          aria-label={`${title}: none`}
          onClick={() => onChoice([])}
        >
          none
        </button>
      </legend>
      {isSearched && (
        <input
          type="search"
          className="field mb-1 w-full"
          aria-label={`Search ${title.toLowerCase()}`}
          placeholder="Search"
          value={sought}
          onChange={(e) => setSought(e.target.value)}
        />
      )}
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
      {!shown.length && <p className="text-sm text-ink2">None is called so.</p>}
    </fieldset>
  );
}
