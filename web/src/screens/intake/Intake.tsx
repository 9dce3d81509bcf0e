import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useCallback, useRef, useState } from "react";
import { useNavigate } from "react-router";
import {
  api,
  type FileLook,
  type IntakeEntry,
  keepFile,
  layersOf,
  settled,
  withLayers,
} from "../../api/client";
import { Choice } from "../../parts/Choice";
import { ChooseFiles } from "../../parts/ChooseFiles";
import { useKey } from "../../parts/useKey";
import { entryOf, setOf, setsOf, useArrangement } from "./arrangement";
import { chosen, type Dropped, filesOf } from "./drop";
import { FileRow } from "./FileRow";
import { type Offer, OfferBar } from "./OfferBar";
import {
  corrected,
  isUsable,
  keyOf,
  type Row,
  type Said,
  wholeOf,
  withLayersOf,
  withLooks,
  withMerged,
} from "./rows";
import { SourceBar } from "./SourceBar";

const AT_ONCE = 3; // uploads under way together: the server decodes on two cores
const FLUSH_MS = 150; // rows that arrive together are drawn together
const SHOWN_AT_FIRST = 200; // thousands of rows with choices in them would hold up every key

/** What every dropped file is, why we think so, and one button that makes sets of them. */
export function Intake({ project }: { project: string }) {
  const [rows, setRows] = useState<Row[]>([]);
  const past = useRef<Row[][]>([]);
  const arrived = useRef<FileLook[]>([]);
  const sent = useRef<Dropped[]>([]);
  const [busy, setBusy] = useState({ left: 0, of: 0 });
  const [isOver, setOver] = useState(false);
  const [problems, setProblems] = useState<string[]>([]);
  const [source, setSource] = useState<string | null | undefined>(undefined); // chosen by hand for all files; undefined: by what each group's names are like
  const [kept, setKept] = useState(0);
  const [open, setOpen] = useState<string | null>(null);
  const [shown, setShown] = useState(SHOWN_AT_FIRST);
  const navigate = useNavigate();
  const queries = useQueryClient();

  const flush = () => {
    const looks = arrived.current.splice(0);
    if (looks.length) setRows((now) => withLooks(now, looks));
  };
  const read = async (dropped: Dropped[], by: Map<string, string>) => {
    setBusy({ left: dropped.length, of: dropped.length });
    const waiting = [...dropped];
    let last = 0;
    const next = async (): Promise<void> => {
      const one = waiting.shift();
      if (!one) return;
      try {
        arrived.current.push(
          ...(await keepFile(one.file, one.folder, by.get(one.file.name) ?? null)),
        );
      } catch (problem) {
        setProblems((now) => [...now, `${one.file.name}: ${(problem as Error).message}`]);
      }
      if (performance.now() - last > FLUSH_MS) {
        last = performance.now();
        flush();
        setBusy((now) => ({ ...now, left: waiting.length }));
      }
      return next();
    };
    await Promise.all(Array.from({ length: AT_ONCE }, next));
    flush();
    setBusy({ left: 0, of: 0 });
  };
  const handleFiles = async (dropped: Dropped[]) => {
    setProblems(dropped.length ? [] : ["Nothing was dropped: choose at least one picture file."]);
    if (!dropped.length) return;
    sent.current.push(...dropped);
    const names = dropped.map(({ file }) => file.name).slice(0, 5000);
    const groups =
      source === undefined
        ? await settled(api.POST("/api/profiles/match", { body: { names } })).catch(() => [])
        : [];
    setKept(0);
    await read(
      dropped,
      source === undefined
        ? new Map(
            groups.flatMap((group) => group.names.map((name) => [name, group.profile] as const)),
          )
        : allOf(source, dropped),
    );
  };
  const { data: folders = [] } = useQuery({
    queryKey: ["folders"],
    queryFn: () => settled(api.GET("/api/folders")),
  });
  const handleFolder = async (place: string) => {
    setBusy({ left: 1, of: 1 });
    try {
      arrived.current.push(
        ...(await withLayers(
          await settled(
            api.POST("/api/folders/looks", { body: { place, profile: source ?? null } }),
          ),
          "",
          source ?? null,
        )),
      );
      flush();
    } catch (problem) {
      setProblems([(problem as Error).message]);
    }
    setBusy({ left: 0, of: 0 });
  };
  const handleProfile = async (name: string | null) => {
    setSource(name);
    setKept(rows.filter((row) => Object.keys(row.byHand).length > 0).length);
    await read(sent.current, allOf(name, sent.current));
  };
  const handleDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    filesOf(event.dataTransfer.items).then(handleFiles, (problem: Error) =>
      setProblems([`The drop could not be read: ${problem.message}`]),
    );
  };
  const correct = useCallback(
    (row: Row, next: Row) =>
      setRows((now) => {
        past.current.push(now);
        return now.map((one) => (one === row ? next : one));
      }),
    [],
  );
  const handleChange = useCallback(
    (row: Row, said: Said) => correct(row, corrected(row, said)),
    [correct],
  );
  const handleOffer = (offer: Offer) => {
    const read = new Map(offer.files.map((file) => [file.name, file]));
    past.current.push(rows);
    setRows(
      rows.map((row) => {
        const file = read.get(row.look.name);
        return file
          ? corrected(row, {
              kind: wholeOf(file.reads),
              reads: file.reads,
              spans: file.spans,
              green: file.green,
              set_name: file.set,
            })
          : row;
      }),
    );
  };
  const handleLeaveOut = useCallback(
    (rows: Row[]) =>
      setRows((now) => {
        past.current.push(now);
        const isLeftOut = !rows[0].isLeftOut;
        return now.map((one) => (rows.includes(one) ? { ...one, isLeftOut } : one));
      }),
    [],
  );
  const handleLayers = useCallback(async (row: Row, way: "merged" | "layers") => {
    setBusy({ left: 1, of: 1 }); // nothing is taken in before its layers are there
    try {
      const layers = way === "layers" ? await layersOf(row.look) : [];
      setRows((now) => {
        past.current.push(now);
        return way === "layers" ? withLayersOf(now, row.look, layers) : withMerged(now, row.look);
      });
    } catch (problem) {
      setProblems([`${row.look.name}: ${(problem as Error).message}`]);
    }
    setBusy({ left: 0, of: 0 });
  }, []);
  const handleOpen = useCallback(
    (row: Row) => setOpen((now) => (now === keyOf(row.look) ? null : keyOf(row.look))),
    [],
  );
  useKey((key) => {
    const before = key === "undo" ? past.current.pop() : undefined;
    if (before) setRows(before);
  });

  const { lines, isBehind } = useArrangement(rows);
  const sets = setsOf(lines);
  const entriesOf = (name: string): IntakeEntry[] =>
    lines
      .filter((line) => isUsable(line.row) && setOf(line) === name)
      .flatMap((line) => entryOf(line) ?? []);
  const unsettled = new Set(
    lines.filter(({ place }) => place?.rival?.relation === "rival").map(setOf),
  );
  const ready = sets.filter((name) => !unsettled.has(name));

  const handleTakeIn = async () => {
    const failed: string[] = [];
    let last = "";
    for (const name of ready) {
      try {
        last = (
          await settled(
            api.POST("/api/projects/{project}/sets", {
              params: { path: { project } },
              body: { name, entries: entriesOf(name) },
            }),
          )
        ).id;
        const taken = lines.filter((line) => isUsable(line.row) && setOf(line) === name);
        const gone = new Set(taken.flatMap(({ row, tiles }) => [row, ...tiles.map((t) => t.row)]));
        setRows((now) => now.filter((row) => !gone.has(row)));
      } catch (problem) {
        failed.push(`${name}: ${(problem as Error).message}`);
      }
    }
    past.current = [];
    setProblems(failed);
    await queries.invalidateQueries({ queryKey: ["sets", project] });
    if (!failed.length && !unsettled.size) navigate(`/p/${project}/bench/${last}`);
  };

  const undecided = rows.filter((row) => !isUsable(row)).length;
  return (
    <main className="overflow-auto px-[18px] py-3.5">
      <h1 className="mb-2.5">
        {rows.length ? `${count(rows.length, "file")}, ${count(sets.length, "set")}` : "Intake"}
      </h1>
      <div
        data-over={isOver}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={handleDrop}
        className={`mb-3 flex items-center gap-3.5 rounded border border-dashed border-copper px-4 data-[over=true]:bg-wash ${rows.length ? "py-2.5" : "py-16 justify-center"}`}
      >
        <span>Drop pictures, folders or zips here, or</span>
        <ChooseFiles
          label="Choose files"
          text="Choose files"
          isMany
          onChoose={(files) => void handleFiles(chosen(files))}
        />
        {folders.length > 0 && (
          <Choice
            label="A folder on the server"
            className="w-56"
            value=""
            options={[
              ["", "or link a folder on the server"],
              ...folders.map((f) => [f.place, `${titleOf(f.place)} (${f.pictures})`] as const),
            ]}
            onChange={(place) => place && void handleFolder(place)}
          />
        )}
        {busy.of > 0 && (
          <span role="status" className="flex items-center gap-2">
            <progress className="w-24" max={busy.of} value={busy.of - busy.left} /> {busy.left} of{" "}
            {busy.of} still being read
          </span>
        )}
        {sets.length > 0 && (
          <button
            type="button"
            className="button-main ml-auto"
            disabled={busy.of > 0 || isBehind || !ready.length}
            onClick={() => void handleTakeIn()}
          >
            Take in {count(ready.length, "set")}
          </button>
        )}
      </div>
      {problems.map((text) => (
        <p key={text} role="alert" className="text-stop">
          {text}
        </p>
      ))}
      {rows.length > 0 && (
        <SourceBar
          rows={rows}
          chosen={source ?? null}
          kept={kept}
          onProfile={(name) => void handleProfile(name)}
          lesson={() => sets.map(entriesOf)}
        />
      )}
      {busy.of === 0 && <OfferBar rows={rows} onTake={handleOffer} />}
      {undecided > 0 && (
        <p className="mb-1 text-ink2">
          {count(undecided, "file")} will not be taken in; each row says why.
        </p>
      )}
      {unsettled.size > 0 && (
        <p className="mb-1 text-stop">
          {[...unsettled].join(", ")}: two files hold the same map. Their rows say what to do.
        </p>
      )}
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
            {lines.slice(0, shown).map((line) => (
              <FileRow
                key={keyOf(line.row.look)}
                line={line}
                isOpen={open === keyOf(line.row.look)}
                onChange={handleChange}
                onLayers={handleLayers}
                onLeaveOut={handleLeaveOut}
                onOpen={handleOpen}
              />
            ))}
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
    </main>
  );
}

/** One source for every file. */
const allOf = (source: string | null, files: Dropped[]) =>
  new Map(source === null ? [] : files.map(({ file }) => [file.name, source] as const));

/** A place without the number of its root; the root itself by what it is. */
const titleOf = (place: string) =>
  place.split("/").slice(1).join("/") || `linked folder ${Number(place) + 1}`;
const count = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;
