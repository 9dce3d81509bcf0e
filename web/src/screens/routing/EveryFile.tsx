import type { Target } from "../../api/client";
import { useFormats } from "../../api/tables";
import { Line } from "../../parts/Line";
import { Segments } from "../../parts/Segments";
import { FORMATS } from "../../parts/stored";
import { TypedField } from "../../parts/TypedField";
import { Chips } from "./Chips";
import { rowOf, withEveryFile, withEveryFormat, withMapWords } from "./edit";

const MAP_WORDS = [
  ["long", "Long map words"],
  ["short", "Short"],
] as const;

type EveryFileProps = { target: Target; onChange: (change: (target: Target) => Target) => void };

/** What can be said of all files of a target at once; where they differ nothing is chosen. */
export function EveryFile({ target, onChange }: EveryFileProps) {
  const { files } = target;
  const formats = useFormats();
  const same = <T,>(of: (file: Target["files"][number]) => T): T | null => {
    const values = new Set(files.map((file) => JSON.stringify(of(file) ?? null)));
    return values.size === 1 ? of(files[0]) : null;
  };
  const name = same((file) => file.name);
  return (
    <section
      aria-label="Every file"
      className="mb-3 flex flex-wrap items-center gap-x-5 gap-y-2 border-y border-hair py-2"
    >
      <b className="font-semibold">Every file</b>
      <Segments
        label="Format of every file"
        options={FORMATS}
        value={same((file) => file.format) ?? ""}
        onChange={(key) => onChange((now) => withEveryFormat(now, rowOf(formats, key)))}
      />
      <span className="flex items-center gap-1.5">
        at most
        <TypedField
          label="Longest side of every file in px"
          inputMode="numeric"
          placeholder="any"
          className="w-16 text-right"
          value={String(same((file) => file.size_cap) ?? "")}
          onDone={(text) =>
            onChange((now) => withEveryFile(now, { size_cap: Number(text) || null }))
          }
        />
        px
      </span>
      <Segments
        label="Map words of every file"
        options={MAP_WORDS}
        value=""
        onChange={(way) => onChange((now) => withMapWords(now, way))}
      />
      <Line label="Name" isHigh>
        {name ? (
          <Chips
            name={name}
            onChange={(next) => onChange((now) => withEveryFile(now, { name: next }))}
          />
        ) : (
          <button
            type="button"
            className="button"
            onClick={() => onChange((now) => withEveryFile(now, { name: now.files[0].name }))}
          >
            All as {files[0].title} is named
          </button>
        )}
      </Line>
    </section>
  );
}
