import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, settled, type TextureSet } from "../../api/client";
import { useSets } from "../../api/queries";
import { chosen } from "../../line/dropped";
import { useDeliverSets } from "../../line/useDeliverSets";
import { useUsual } from "../../line/usual";
import { Choice } from "../../parts/Choice";
import { ChooseFiles } from "../../parts/ChooseFiles";
import { useKey } from "../../parts/useKey";
import { useArrangement } from "./arrangement";
import { FileRow } from "./FileRow";
import { GroupHead } from "./GroupHead";
import { IntakeLine } from "./IntakeLine";
import { OfferBar } from "./OfferBar";
import { isUsable, keyOf, type Row } from "./rows";
import { SourceBar } from "./SourceBar";
import {
  alreadyGiven,
  entriesOf,
  type Group,
  groupsOf,
  isReady,
  rowsOf,
  takeIn,
  type Way,
} from "./takeIn";
import { useReading } from "./useReading";

const SHOWN_AT_FIRST = 200; // thousands of rows with choices in them would hold up every key

/**
 * What every dropped file is, why we think so, and what comes next. It goes on reading while another
 * place is looked at, and keeps its table.
 */
export function Intake({ project, isHere }: { project: string; isHere: boolean }) {
  const reading = useReading(project);
  const { rows, busy, problems } = reading;
  const { data: sets = [] } = useSets(project);
  const { usual, change: changeUsual } = useUsual(project);
  const deliver = useDeliverSets(project);
  const { lines, isBehind } = useArrangement(rows);
  const [ways, setWays] = useState<Record<string, Way | undefined>>({});
  const [open, setOpen] = useState<string | null>(null);
  const [shown, setShown] = useState(SHOWN_AT_FIRST);
  const [said, setSaid] = useState<string | null>(null);
  const [isTaking, setTaking] = useState(false);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const groups = groupsOf(lines, sets, ways);
  const ready = groups.filter(isReady);
  const canGo = isHere && ready.length > 0 && busy.of === 0 && !isBehind && !isTaking;

  /** Take groups in one after the other; one that fails stays in the table and says why. */
  const handleTakeIn = async (wanted: Group[]): Promise<TextureSet[]> => {
    const made: TextureSet[] = [];
    const failed: string[] = [];
    setTaking(true);
    for (const group of wanted) {
      try {
        made.push(await takeIn(project, group));
        reading.drop(new Set(rowsOf(group)));
      } catch (problem) {
        failed.push(`${group.name}: ${(problem as Error).message}`);
      }
    }
    reading.say(failed);
    setTaking(false);
    await queries.invalidateQueries({ queryKey: ["sets", project] });
    return failed.length ? [] : made;
  };
  const isAll = ready.length === groups.filter((group) => entriesOf(group).length > 0).length;
  const handleToBench = async () => {
    const made = await handleTakeIn(ready);
    const last = made.at(-1);
    if (last && isAll) navigate(`/p/${project}/bench/${last.id}`);
  };
  const handleDeliver = async () => {
    if (!canGo || !usual.length) return;
    const made = await handleTakeIn(ready);
    if (!made.length) return;
    await deliver(
      made.map(({ id }) => id),
      usual,
    );
  };
  useKey((key) => {
    if (!isHere) return;
    if (key === "undo") reading.undo();
    else if (key === "run") void handleDeliver();
  });

  const { into, settleInto } = reading;
  const isRead = busy.of === 0 && !isBehind;
  useEffect(() => {
    if (!into || !isRead) return;
    settleInto();
    const group = groups.find(({ there }) => there?.id === into.id);
    const own = group && { ...group, way: "add" as const };
    if (
      !own ||
      !isReady(own) ||
      own.lines.some(({ row }) => !isUsable(row)) ||
      alreadyGiven(own).length
    )
      return void navigate(`/p/${project}/intake`); // something is to be said first
    const names = own.lines.map(({ row }) => row.look.name).join(", ");
    void handleTakeIn([own]).then(
      (made) => made.length && setSaid(`Added to ${into.name}: ${names}`),
    );
  });

  const handleWay = useCallback(
    (name: string, way: Way) => setWays((now) => ({ ...now, [name]: way })),
    [],
  );
  const handleOpen = useCallback(
    (row: Row) => setOpen((now) => (now === keyOf(row.look) ? null : keyOf(row.look))),
    [],
  );
  const going = ready.flatMap(entriesOf).length;
  const stays = lines.length - ready.flatMap(({ lines }) => lines).length;
  return (
    <>
      {said && !isHere && (
        <p
          role="status"
          className="fixed bottom-[38px] left-3 z-30 flex items-center gap-3 rounded-[3px] border border-hair bg-sheet px-3 py-2"
        >
          {said}
          <button
            type="button"
            className="button"
            aria-label="Put the message away"
            onClick={() => setSaid(null)}
          >
            ×
          </button>
        </p>
      )}
      <main
        hidden={!isHere}
        className={isHere ? "grid min-h-0 grid-rows-[minmax(0,1fr)_auto]" : ""}
      >
        <div className="overflow-auto px-[18px] py-3.5">
          <h1 className="mb-2.5">
            {rows.length
              ? `${count(rows.length, "file")}, ${count(groups.filter((group) => entriesOf(group).length > 0).length, "set")}`
              : "Intake"}
          </h1>
          <DropBox
            isEmpty={!rows.length}
            busy={busy}
            onFiles={(files) => void reading.handleFiles(chosen(files))}
            onFolder={(place) => void reading.handleFolder(place)}
          />
          {problems.map((text) => (
            <p key={text} role="alert" className="text-stop">
              {text}
            </p>
          ))}
          {rows.length > 0 && (
            <SourceBar
              rows={rows}
              chosen={reading.source}
              kept={reading.kept}
              onProfile={(name) => void reading.handleProfile(name)}
              lesson={() => groups.map(entriesOf).filter((entries) => entries.length > 0)}
            />
          )}
          {busy.of === 0 && <OfferBar rows={rows} onTake={reading.handleOffer} />}
          <Waiting lines={rows} groups={groups} />
          {rows.length > 0 && (
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
                      onWay={handleWay}
                    />
                  ),
                  // side by side with the heads: a row that goes to another set stays the same row, focus and all
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
          )}
          {lines.length > shown && (
            <button
              type="button"
              className="button mt-2"
              onClick={() => setShown((n) => n + 5 * SHOWN_AT_FIRST)}
            >
              Show more of {lines.length} rows
            </button>
          )}
        </div>
        {rows.length > 0 && (
          <IntakeLine
            sets={ready.length}
            files={going}
            stays={stays}
            size={sizeOf(ready)}
            usual={usual}
            isReady={canGo}
            onUsual={changeUsual}
            onTakeIn={() => void handleToBench()}
            onDeliver={() => void handleDeliver()}
          />
        )}
      </main>
    </>
  );
}

/** What will not be taken in, and what has to be chosen first. */
function Waiting({ lines, groups }: { lines: Row[]; groups: Group[] }) {
  const undecided = lines.filter((row) => !isUsable(row)).length;
  const unsettled = groups.filter(({ isUnsettled }) => isUnsettled).map(({ name }) => name);
  return (
    <>
      {undecided > 0 && (
        <p className="mb-1 text-ink2">
          {count(undecided, "file")} will not be taken in; each row says why.
        </p>
      )}
      {unsettled.length > 0 && (
        <p className="mb-1 text-stop">
          {unsettled.join(", ")}: two files hold the same map. Their rows say what to do.
        </p>
      )}
    </>
  );
}

type DropBoxProps = {
  isEmpty: boolean;
  busy: { left: number; of: number };
  onFiles: (files: FileList) => void;
  onFolder: (place: string) => void;
};

/** The other ways to give files, and how far their reading is. */
function DropBox({ isEmpty, busy, onFiles, onFolder }: DropBoxProps) {
  const { data: folders = [] } = useQuery({
    queryKey: ["folders"],
    queryFn: () => settled(api.GET("/api/folders")),
  });
  return (
    <div
      className={`mb-3 flex items-center gap-3.5 rounded border border-dashed border-copper px-4 ${isEmpty ? "justify-center py-16" : "py-2.5"}`}
    >
      <span>
        {isEmpty
          ? "Drop pictures, folders or zips anywhere in the window, paste, or"
          : "Drop more anywhere in the window, paste, or"}
      </span>
      <ChooseFiles label="Choose files" text="Choose files" isMany onChoose={onFiles} />
      {folders.length > 0 && (
        <Choice
          label="A folder on the server"
          className="w-56"
          value=""
          options={[
            ["", "or link a folder on the server"],
            ...folders.map((f) => [f.place, `${titleOf(f.place)} (${f.pictures})`] as const),
          ]}
          onChange={(place) => place && onFolder(place)}
        />
      )}
      {busy.of > 0 && (
        <span role="status" className="flex items-center gap-2">
          <progress className="w-24" max={busy.of} value={busy.of - busy.left} /> {busy.left} of{" "}
          {busy.of} still being read
        </span>
      )}
    </div>
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

/** The size of what goes on, in words. */
function sizeOf(groups: Group[]): string {
  const sizes = new Set(
    groups.flatMap(({ lines }) =>
      lines.map(({ row: { look } }) => `${look.width} × ${look.height}`),
    ),
  );
  return sizes.size === 1 ? `${[...sizes][0]} px` : "each set at its own size";
}

/** A place without the number of its root; the root itself by what it is. */
const titleOf = (place: string) =>
  place.split("/").slice(1).join("/") || `linked folder ${Number(place) + 1}`;
const count = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;
