import { keyOf, type Row } from "./rows";

const NAMED = 4;

/** Files that lie beside the pictures and hold none, in one line that opens: nothing waits for them. */
export function Beside({ rows }: { rows: Row[] }) {
  const names = rows.map(({ look }) => look.name);
  const rest = names.length - NAMED;
  const some = names.slice(0, NAMED).join(", ") + (rest > 0 ? ` and ${rest} more` : "");
  return (
    <details className="mt-3 text-ink2">
      <summary className="cursor-pointer">
        {rows.length === 1 ? "1 file is no picture" : `${rows.length} files are no pictures`} and{" "}
        {rows.length === 1 ? "stays" : "stay"} out: {some}
      </summary>
      <ul className="mt-1 ml-4">
        {rows.map(({ look }) => (
          <li key={keyOf(look)}>{look.findings?.map(({ text }) => text).join(" ")}</li>
        ))}
      </ul>
    </details>
  );
}
