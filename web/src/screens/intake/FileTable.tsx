import { useCallback, useState } from "react";
import { FileRow } from "./FileRow";
import { GroupHead } from "./GroupHead";
import { keyOf, type Row } from "./rows";
import type { Group, Way } from "./takeIn";
import type { useReading } from "./useReading";

const SHOWN_AT_FIRST = 200; // thousands of rows with choices in them would hold up every key

type FileTableProps = {
  groups: Group[];
  reading: ReturnType<typeof useReading>;
  onWay: (name: string, way: Way) => void;
};

/** The files by the sets they make; one of them is opened at a time. */
export function FileTable({ groups, reading, onWay }: FileTableProps) {
  const [open, setOpen] = useState<string | null>(null);
  const [shown, setShown] = useState(SHOWN_AT_FIRST);
  const handleOpen = useCallback(
    (row: Row) => setOpen((now) => (now === keyOf(row.look) ? null : keyOf(row.look))),
    [],
  );
  const lines = groups.flatMap((group) => group.lines).length;
  return (
    <>
      <table className="w-full border-collapse">
        <thead>
          <tr>
            <th />
            <th>File</th>
            <th>Set</th>
            <th>Is</th>
            <th>Green</th>
            <th>Size</th>
            <th>Sure</th>
            <th>Because</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {firstOf(groups, shown).flatMap((group) => [
            group.name && (
              <GroupHead
                key={`head of ${group.name}`}
                group={group}
                onRename={reading.handleRename}
                onWay={onWay}
              />
            ),
            // side by side with the heads: a row that goes to another set stays the same row, focus
            // and all
            ...group.lines.map((line) => (
              <FileRow
                key={keyOf(line.row.look)}
                line={line}
                isOpen={open === keyOf(line.row.look)}
                onChange={reading.handleChange}
                onLayers={reading.handleLayers}
                onLeaveOut={reading.handleLeaveOut}
                onOpen={handleOpen}
              />
            )),
          ])}
        </tbody>
      </table>
      {lines > shown && (
        <button
          type="button"
          className="button mt-2"
          onClick={() => setShown((n) => n + 5 * SHOWN_AT_FIRST)}
        >
          Show more of {lines} rows
        </button>
      )}
    </>
  );
}

/** Groups as far as the first so many lines go. */
function firstOf(groups: Group[], most: number): Group[] {
  let left = most;
  const shown: Group[] = [];
  for (const group of groups) {
    if (left <= 0) break;
    shown.push({ ...group, lines: group.lines.slice(0, left) });
    left -= group.lines.length;
  }
  return shown;
}
