import { memo, useRef } from "react";
import { isSameLine } from "./arrangement";
import type { Row } from "./rows";
import { alreadyGiven, type Group, rowsOf, type Way } from "./takeIn";

type GroupHeadProps = {
  group: Group;
  onRename: (rows: Row[], name: string) => void;
  onWay: (name: string, way: Way) => void;
};

/** A set to be: its name, typed once for all of its files, and what happens where one is there. */
export const GroupHead = memo(OneHead, isSameHead);

function OneHead({ group, onRename, onWay }: GroupHeadProps) {
  const field = useRef<HTMLInputElement>(null);
  const { name, lines, there, way } = group;
  const given = alreadyGiven(group);
  const files = lines
    .filter(({ row }) => !row.isByLayers)
    .reduce((sum, { tiles }) => sum + 1 + tiles.length, 0);
  const handleName = (typed: string) => {
    const next = typed.trim();
    if (next && next !== name) onRename(rowsOf(group), next);
  };
  return (
    <tr className="border-t border-hair">
      <td colSpan={9} className="pt-3 pb-1">
        <span className="flex flex-wrap items-center gap-3">
          <input
            key={name}
            ref={field}
            aria-label={`Name of the set ${name}`}
            className="field w-64 font-semibold"
            defaultValue={name}
            onBlur={(e) => handleName(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && handleName(e.currentTarget.value)}
          />
          <span className="text-ink2">
            {files} {files === 1 ? "file" : "files"}
          </span>
          {there && (
            <>
              <span className={way ? "text-ink2" : "text-look"}>
                {way ? "" : "◆ "}
                {there.name} is there already
                {given.length > 0 && `, with ${given.map(plain).join(" and ")} of its own`}:
              </span>
              {(
                [
                  ["add", `Add to ${there.name}`],
                  ["replace", `Replace in ${there.name}`],
                ] as const
              ).map(([key, title]) => (
                <button
                  key={key}
                  type="button"
                  className="button aria-pressed:border-copper aria-pressed:bg-wash"
                  aria-pressed={way === key}
                  onClick={() => onWay(name, key)}
                >
                  {title}
                </button>
              ))}
              <button type="button" className="button" onClick={() => field.current?.select()}>
                Another name
              </button>
            </>
          )}
        </span>
      </td>
    </tr>
  );
}

/**
 * Groups are made anew with every file that arrives; a head is drawn anew only where it differs.
 */
function isSameHead({ group: a }: GroupHeadProps, { group: b }: GroupHeadProps): boolean {
  return (
    a.name === b.name &&
    a.there === b.there &&
    a.way === b.way &&
    a.lines.length === b.lines.length &&
    a.lines.every((line, k) => isSameLine(line, b.lines[k]))
  );
}

const plain = (key: string) => key.replaceAll("_", " ");
