import { useCallback, useEffect, useMemo, useState } from "react";
import type { Finding } from "../../api/client";
import { useSets } from "../../api/queries";
import { chosen } from "../../line/dropped";
import { useFoundOnTable } from "../../line/onTable";
import { useUsual } from "../../line/usual";
import { Problem } from "../../parts/grades";
import { useKey } from "../../parts/useKey";
import { foundOn, type Line, useArrangement } from "./arrangement";
import { Beside } from "./Beside";
import { DropBox } from "./DropBox";
import { FileTable } from "./FileTable";
import { IntakeLine } from "./IntakeLine";
import { MeshTable } from "./MeshTable";
import { OfferBar } from "./OfferBar";
import { OtherFormat } from "./OtherFormat";
import { isBeside, isUsable, type Row } from "./rows";
import { SavedSets } from "./SavedSets";
import { SourceBar } from "./SourceBar";
import { entriesOf, filesIn, type Group, groupsOf, sizesOf, type Way } from "./takeIn";
import { useFirstLook } from "./useFirstLook";
import { type MeshRow, useMeshes, useWearings } from "./useMeshes";
import { useReading } from "./useReading";
import { useSavedSets } from "./useSavedSets";
import { type Taking, useTakingIn } from "./useTakingIn";

const NONE: Row[] = []; // while files are read
const NOTHING: Finding[] = [];

/**
 * What every dropped file is, why we think so, and what comes next. It goes on reading while
 * another place is looked at, and keeps its table.
 */
export function Intake({ project, isHere }: { project: string; isHere: boolean }) {
  const meshes = useMeshes(project);
  const saved = useSavedSets(project);
  const reading = useReading(project, meshes, saved.see);
  const { rows, busy } = reading;
  const { data: sets = [] } = useSets(project);
  const { usual, change: changeUsual } = useUsual(project);
  const hasMesh = meshes.rows.length > 0;
  const [listed, beside] = useMemo(() => apart(rows, hasMesh), [rows, hasMesh]);
  const [taking, setTaking] = useState<Taking | null>(null);
  const isTakingMany = taking !== null && taking.of > 1;
  const moving = (taking && "taking") || (busy.of > 0 && "reading") || null;
  const { lines, places, isBehind, problem } = useArrangement(listed, moving);
  const { handlePlaces } = reading;
  useEffect(() => {
    if (places) handlePlaces(places);
  }, [places, handlePlaces]);
  const [ways, setWays] = useState<Record<string, Way | undefined>>({});
  const groups = groupsOf(lines, sets, ways);
  const wearings = useWearings(project, meshes, groups.map(({ name }) => name).filter(Boolean));
  const { ready, canPress, press, stop, said, putSaidAway } = useTakingIn({
    project,
    isHere,
    reading,
    groups,
    isBehind,
    usual,
    meshes: wearings,
    taking,
    onTaking: setTaking,
  });
  useFirstLook(canPress, ready, wearings);
  const found = useMemo(() => foundOnTable(lines, meshes.rows), [lines, meshes.rows]);
  useFoundOnTable(isHere ? found : NOTHING);
  useKey((key) => {
    if (!isHere) return;
    if (key === "undo" && !taking) reading.undo();
    else if (key === "run") press("targets");
  });
  const handleWay = useCallback(
    (name: string, way: Way) => setWays((now) => ({ ...now, [name]: way })),
    [],
  );
  return (
    <>
      {said && !isHere && <Said text={said} onAway={putSaidAway} />}
      <main
        hidden={!isHere}
        className={isHere ? "grid min-h-0 grid-rows-[minmax(0,1fr)_auto]" : ""}
      >
        <div className="scrolled px-[18px] py-3.5">
          <OtherFormat rows={busy.of === 0 ? rows : NONE}>
            {rows.length
              ? `${count(listed.length, "file")}, ${count(groups.filter((group) => entriesOf(group).length > 0).length, "set")}`
              : "Intake"}
          </OtherFormat>
          <DropBox
            isEmpty={!rows.length && !meshes.rows.length && !saved.offered.length}
            busy={busy}
            onFiles={(files) => void reading.handleFiles(chosen(files))}
            onFolder={(place) => void reading.handleFolder(place)}
          />
          {reading.problems.map((text) => (
            <p key={text} role="alert" className="text-stop">
              {text}
            </p>
          ))}
          <Problem error={problem} />
          <SavedSets saved={saved} />
          {/* a word would come too late for a set whose turn it is */}
          <div inert={isTakingMany} className={isTakingMany ? "opacity-60" : ""}>
            {rows.length > 0 && (
              <SourceBar
                rows={rows}
                chosen={reading.source}
                kept={reading.kept}
                isBehind={isBehind || busy.of > 0}
                onProfile={(name) => void reading.handleProfile(name)}
                lesson={() => groups.map(entriesOf).filter((entries) => entries.length > 0)}
              />
            )}
            {!moving && <OfferBar rows={rows} onTake={reading.handleOffer} />}
            <Waiting lines={listed} groups={groups} />
            {rows.length > 0 && <FileTable groups={groups} reading={reading} onWay={handleWay} />}
          </div>
          {beside.length > 0 && <Beside rows={beside} />}
          <MeshTable meshes={meshes} wearings={wearings} />
        </div>
        {rows.length + meshes.rows.length > 0 && (
          <IntakeLine
            meshes={wearings.going}
            sets={
              new Set([
                ...ready.map(({ name }) => name.toLowerCase()),
                ...wearings.sets.map((one) => one.set_name.toLowerCase()),
              ]).size
            }
            files={filesIn(ready)}
            stays={staying(lines, ready)}
            size={sizesOf(ready, wearings.sets.filter((one) => one.is_new).length)}
            usual={usual}
            isReady={canPress}
            taking={taking}
            onStop={stop}
            onUsual={changeUsual}
            onTakeIn={() => press("sets")}
            onDeliver={() => press("targets")}
          />
        )}
      </main>
    </>
  );
}

/** Rows of the table, and files that lie beside what can be taken in. */
const apart = (rows: Row[], hasMesh: boolean): [listed: Row[], beside: Row[]] =>
  hasMesh || rows.some(isUsable)
    ? [rows.filter((row) => !isBeside(row, hasMesh)), rows.filter((row) => isBeside(row, hasMesh))]
    : [rows, NONE];

/** What was found on every file that is meant. */
const foundOnTable = (lines: Line[], meshes: MeshRow[]): Finding[] => [
  ...lines.filter(({ row }) => !row.isLeftOut).flatMap(foundOn),
  ...meshes.filter((row) => !row.isLeftOut).flatMap(({ look }) => look.findings),
];

/** What was done with files that were dropped on a set at another place. */
function Said({ text, onAway }: { text: string; onAway: () => void }) {
  return (
    <p
      role="status"
      className="fixed bottom-[38px] left-3 z-30 flex items-center gap-3 rounded-[3px] border
        border-hair bg-sheet px-3 py-2"
    >
      {text}
      <button type="button" className="button" aria-label="Put the message away" onClick={onAway}>
        ×
      </button>
    </p>
  );
}

/** Lines that are not taken in; a document whose layers are is none of them. */
const staying = (lines: Line[], ready: Group[]): number => {
  const going = new Set(ready.flatMap((group) => group.lines.filter(({ row }) => isUsable(row))));
  return lines.filter((line) => !going.has(line) && !line.row.isByLayers).length;
};

/** What will not be taken in, and what has to be chosen first. */
function Waiting({ lines, groups }: { lines: Row[]; groups: Group[] }) {
  const undecided = lines.filter((row) => !isUsable(row) && !row.isByLayers).length;
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

const count = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;
