import type { KeyboardEvent } from "react";
import type { FileLook } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { FindingLine } from "../../parts/grades";
import { GREENS, KINDS } from "./kinds";

export type Row = { look: FileLook; isLeftOut: boolean };
type FileRowProps = { row: Row; onChange: (look: Partial<FileLook>) => void; onLeaveOut: () => void };

/** One file: what it is, and why we think so, each part correctable. */
export function FileRow({ row: { look, isLeftOut }, onChange, onLeaveOut }: FileRowProps) {
  const green = look.green === "down" ? "down" : "up";
  const handleKey = (event: KeyboardEvent<HTMLTableRowElement>) => {
    if (event.target !== event.currentTarget) return;
    const rows = event.currentTarget;
    const beside = { ArrowUp: rows.previousElementSibling, ArrowDown: rows.nextElementSibling }[event.key];
    if (beside) (beside as HTMLElement).focus();
    else if (event.key === "Delete") onLeaveOut();
    else if (event.key === "g" && look.kind === "normal") onChange({ green: green === "up" ? "down" : "up" });
    else return;
    event.preventDefault();
  };
  return (
    <tr tabIndex={0} aria-label={look.name} onKeyDown={handleKey} className={`focus-visible:-outline-offset-2 ${isLeftOut ? "opacity-60" : ""}`}>
      <td className="w-[46px]">{look.readable && <img alt="" src={`/api/originals/${look.sha256}/thumbnail`} className="size-[34px] bg-surround object-cover" />}</td>
      <td className="file-name max-w-56 break-words">{look.name}</td>
      <td>{look.readable && <input aria-label={`Set of ${look.name}`} className="field w-36" value={look.set_name} onChange={(e) => onChange({ set_name: e.target.value })} />}</td>
      <td>
        {look.readable ? (
          <Choice label={`What ${look.name} is`} className="w-36" options={[["unknown", "Which?"], ...KINDS]} value={(look.kind ?? "unknown") as "unknown"} onChange={(kind) => onChange({ kind, reads: {}, green: kind === "normal" ? (look.green ?? "up") : null })} />
        ) : <span className="text-stop">■ not read</span>}
      </td>
      <td>{look.kind === "normal" && <Choice label={`Green of ${look.name}`} options={GREENS} value={green} onChange={(next) => onChange({ green: next })} />}</td>
      <td className="whitespace-nowrap">{look.readable && <>{look.width} × {look.height}<br /><span className="text-sm text-ink2">{look.depth} bit {look.letters}</span></>}</td>
      <td className="whitespace-nowrap">{look.readable && `${Math.round((look.confidence ?? 0) * 100)} %`}</td>
      <td>
        {isLeftOut && <p className="text-ink2">Left out. Press Delete on the row to take it back.</p>}
        {look.because?.join("; ")}
        {look.findings?.map((f) => <FindingLine key={f.id} finding={f} />)}
      </td>
      <td className="pr-0"><button className="button w-[26px] justify-center px-0" aria-label={isLeftOut ? `Take back ${look.name}` : `Leave out ${look.name}`} onClick={onLeaveOut}>{isLeftOut ? "+" : "×"}</button></td>
    </tr>
  );
}
