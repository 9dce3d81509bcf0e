import { useState } from "react";
import type { TextureSet } from "../../api/client";
import { AS_IT_IS, type Naming, refusedNames, renamed } from "./naming";

const LISTED = 5;
const FIELDS: readonly (readonly [keyof Naming, string])[] = [
  ["find", "In names, replace"],
  ["put", "by"],
  ["before", "Before"],
  ["after", "After"],
];

type RenameManyProps = {
  sets: TextureSet[];
  others: string[]; // names of the sets that are not renamed
  onDone: (nameOf: (name: string) => string) => void;
};

/** New names of many sets by one rule, with the list of what they will be. */
export function RenameMany({ sets, others, onDone }: RenameManyProps) {
  const [naming, setNaming] = useState<Naming>(AS_IT_IS);
  const changed = sets.map(({ name }) => [name, renamed(name, naming)] as const);
  const moved = changed.filter(([name, next]) => name !== next);
  const refused = refusedNames(
    changed.map(([, next]) => next),
    others,
  );
  return (
    <form
      className="flex basis-full flex-wrap items-start gap-x-4 gap-y-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (moved.length && !refused) onDone((name) => renamed(name, naming));
      }}
    >
      {FIELDS.map(([key, title]) => (
        <label key={key} className="flex items-center gap-1.5">
          {title}
          <input
            className="field w-28"
            value={naming[key]}
            onChange={(e) => setNaming((now) => ({ ...now, [key]: e.target.value }))}
          />
        </label>
      ))}
      <button type="submit" className="button" disabled={!moved.length || refused !== null}>
        Rename {moved.length} {moved.length === 1 ? "set" : "sets"}
      </button>
      <p className="basis-full text-sm text-ink2">
        {refused && <span className="text-stop">{refused} </span>}
        {moved
          .slice(0, LISTED)
          .map(([name, next]) => `${name} → ${next}`)
          .join(" · ")}
        {moved.length > LISTED && ` · and ${moved.length - LISTED} more`}
      </p>
    </form>
  );
}
