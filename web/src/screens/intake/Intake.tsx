import { useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, type FileLook, keepFile, settled } from "../../api/client";
import { filesOf } from "./drop";
import { FileRow, type Row } from "./FileRow";

const AT_ONCE = 3; // uploads under way together: the server decodes on two cores

const isUsable = (row: Row) => row.look.readable && row.look.kind !== "unknown" && !row.isLeftOut;
const bySetAndName = (a: Row, b: Row) => a.look.set_name.localeCompare(b.look.set_name) || a.look.name.localeCompare(b.look.name);
const setsOf = (rows: Row[]) => [...new Set(rows.filter(isUsable).map((row) => row.look.set_name))];

/** What every dropped file is, why we think so, and one button that makes sets of them. */
export function Intake({ project }: { project: string }) {
  const [rows, setRows] = useState<Row[]>([]);
  const [busy, setBusy] = useState(0);
  const [isOver, setOver] = useState(false);
  const [problems, setProblems] = useState<string[]>([]);
  const choose = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const queries = useQueryClient();

  const take = async (file: File) => {
    try {
      const looks = await keepFile(file);
      const isNew = (row: Row) => !looks.some((look) => look.sha256 === row.look.sha256 && look.name === row.look.name);
      setRows((now) => [...now.filter(isNew), ...looks.map((look) => ({ look, isLeftOut: false }))].sort(bySetAndName));
    } catch (problem) {
      setProblems((now) => [...now, `${file.name}: ${(problem as Error).message}`]);
    } finally {
      setBusy((n) => n - 1);
    }
  };
  const handleFiles = async (dropped: File[]) => {
    setProblems(dropped.length ? [] : ["Nothing was dropped: choose at least one picture file."]);
    setBusy((n) => n + dropped.length);
    const waiting = [...dropped];
    const next = async (): Promise<void> => {
      const file = waiting.shift();
      if (file) await take(file).then(next);
    };
    await Promise.all(Array.from({ length: AT_ONCE }, next));
  };
  const handleDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    filesOf(event.dataTransfer.items).then(handleFiles, (problem: Error) => setProblems([`The drop could not be read: ${problem.message}`]));
  };
  const change = (row: Row, look: Partial<FileLook>) => setRows((now) => now.map((r) => (r === row ? { ...r, look: { ...r.look, ...look } } : r)));
  const leaveOut = (row: Row) => setRows((now) => now.map((r) => (r === row ? { ...r, isLeftOut: !r.isLeftOut } : r)));

  const handleTakeIn = async () => {
    const failed: string[] = [];
    let last = "";
    for (const name of setsOf(rows)) {
      const own = rows.filter((r) => isUsable(r) && r.look.set_name === name);
      const entries = own.map(({ look }) => ({ sha256: look.sha256, name: look.name, kind: look.kind ?? "unknown", green: look.green === "unsure" ? null : look.green }));
      try {
        last = (await settled(api.POST("/api/projects/{project}/sets", { params: { path: { project } }, body: { name, entries } }))).id;
        setRows((now) => now.filter((r) => !own.includes(r)));
      } catch (problem) {
        failed.push(`${name}: ${(problem as Error).message}`);
      }
    }
    setProblems(failed);
    await queries.invalidateQueries({ queryKey: ["sets", project] });
    if (!failed.length) navigate(`/p/${project}/bench/${last}`);
  };

  const sets = setsOf(rows);
  const undecided = rows.filter((r) => !isUsable(r)).length;
  return (
    <main className="overflow-auto px-[18px] py-3.5">
      <h1 className="mb-2.5">{rows.length ? `${count(rows.length, "file")}, ${count(sets.length, "set")}` : "Intake"}</h1>
      <div data-over={isOver} onDragOver={(e) => { e.preventDefault(); setOver(true); }} onDragLeave={() => setOver(false)} onDrop={handleDrop}
        className={`mb-3 flex items-center gap-3.5 rounded border border-dashed border-copper px-4 data-[over=true]:bg-wash ${rows.length ? "py-2.5" : "py-16 justify-center"}`}>
        <span>Drop pictures, folders or zips here, or</span>
        <input ref={choose} type="file" multiple aria-label="Choose files" className="sr-only" onChange={(e) => { void handleFiles([...(e.target.files ?? [])]); e.target.value = ""; }} />
        <button className="button" onClick={() => choose.current!.click()}>Choose files</button>
        {busy > 0 && <span role="status">{busy} still being read…</span>}
        {sets.length > 0 && <button className="button-main ml-auto" disabled={busy > 0} onClick={() => void handleTakeIn()}>Take in {count(sets.length, "set")}</button>}
      </div>
      {problems.map((text) => <p key={text} role="alert" className="text-stop">{text}</p>)}
      {undecided > 0 && <p className="mb-1 text-ink2">{count(undecided, "file")} will not be taken in; each row says why.</p>}
      {rows.length > 0 && (
        <table className="w-full border-collapse">
          <thead><tr><th /><th>File</th><th>Set</th><th>Is</th><th>Green</th><th>Size</th><th>Sure</th><th>Because</th><th /></tr></thead>
          <tbody>
            {rows.map((row) => <FileRow key={row.look.sha256 + row.look.name} row={row} onChange={(look) => change(row, look)} onLeaveOut={() => leaveOut(row)} />)}
          </tbody>
        </table>
      )}
    </main>
  );
}

const count = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;
