import { useMutation } from "@tanstack/react-query";
import { type ReactNode, useRef, useState } from "react";
import { useFormats } from "../../api/tables";
import { bytesSaid } from "../../line/counted";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { saveBlob } from "../../parts/saveBlob";
import { SIZES } from "../../parts/sizes";
import { depthKey, depthOptions, FORMATS } from "../../parts/stored";
import { sure } from "../../parts/sure";
import { isWritable, type Row } from "./rows";

const OWN = "own"; // each file's own depth or size

const SMALLER = {
  smooth:
    "What is larger is averaged down: colors as light, normals at unit length; nothing is made larger.",
  nearest:
    "What is larger is made smaller by whole steps, so that its texels stay as they are; nothing is made larger.",
};

/**
 * The place's heading, and beside it the dropped pictures in another format or size and nothing
 * else: no set, nothing derived. Folded away until it is wanted.
 */
export function OtherFormat({ rows, children }: { rows: Row[]; children: ReactNode }) {
  const [isOpen, setOpen] = useState(false);
  const files = rows.filter(isWritable);
  return (
    <div className="mb-2.5">
      <div className="flex items-baseline">
        <h1>{children}</h1>
        {files.length > 0 && (
          <button
            type="button"
            aria-expanded={isOpen}
            className="ml-auto cursor-pointer text-sm text-ink2 underline"
            onClick={() => setOpen(!isOpen)}
          >
            Only another format or size
          </button>
        )}
      </div>
      {isOpen && files.length > 0 && <Ways files={files} />}
    </div>
  );
}

function Ways({ files }: { files: Row[] }) {
  const formats = useFormats();
  const [key, setKey] = useState(FORMATS[0][0]);
  const [wanted, setWanted] = useState(OWN);
  const [longest, setLongest] = useState(OWN);
  const [sampling, setSampling] = useState<keyof typeof SMALLER>("smooth");
  const [bytes, setBytes] = useState(0);
  const stop = useRef<AbortController | null>(null);
  const format = sure(
    formats.find((one) => one.key === key),
    key,
  );
  const stored = format.depths.find((one) => depthKey(one) === wanted) ?? null;
  const save = useMutation({
    mutationFn: async () => {
      setBytes(0);
      stop.current = new AbortController();
      const { signal } = stop.current;
      const longest_px = longest === OWN ? null : Number(longest);
      const body = { files: files.map(sentOf), format: key, stored, longest_px, sampling };
      await saveBlob("/api/reformatted", { body, signal, onBytes: setBytes });
    },
  });
  const isStopped = save.error?.name === "AbortError";
  return (
    <section
      aria-label="Only another format or size"
      className="mt-1 border border-hair bg-sheet px-3 py-2"
    >
      <div className="flex flex-wrap items-center gap-2">
        <span>{files.length === 1 ? "This picture" : `These ${files.length} pictures`} as</span>
        <Choice
          label="Format to write"
          className="w-40"
          options={FORMATS}
          value={key}
          onChange={setKey}
        />
        <Choice
          label="Depth to write"
          className="w-40"
          options={[[OWN, "depth of each file"], ...depthOptions(format.depths)]}
          value={stored ? wanted : OWN}
          onChange={setWanted}
        />
        <Choice
          label="Longer side to write"
          className="w-40"
          options={[
            [OWN, "size of each file"],
            ...SIZES.toReversed().map((px) => [String(px), `at most ${px} px`] as const),
          ]}
          value={longest}
          onChange={setLongest}
        />
        {longest !== OWN && (
          <Choice
            label="How pictures are made smaller"
            className="w-36"
            options={[
              ["smooth", "averaged"],
              ["nearest", "as pixel art, sharp"],
            ]}
            value={sampling}
            onChange={setSampling}
          />
        )}
        {save.isPending ? (
          <>
            <span role="status">Writing, {bytesSaid(bytes)} so far</span>
            <button type="button" className="button" onClick={() => stop.current?.abort()}>
              Stop
            </button>
          </>
        ) : (
          <button type="button" className="button-main" onClick={() => save.mutate()}>
            Save as one zip
          </button>
        )}
        {isStopped && <span role="status">Stopped: nothing was saved.</span>}
      </div>
      <p className="mt-1 text-sm text-ink2">
        Names, folders and values stay; no set is made.
        {longest !== OWN && ` ${SMALLER[sampling]}`} What the format cannot hold is told in
        what-changed.txt, in the zip.
      </p>
      <Problem error={isStopped ? null : save.error} />
    </section>
  );
}

const sentOf = ({ look: { sha256, name, folder, reads } }: Row) => ({
  sha256,
  name,
  folder: folder ?? "",
  reads: reads ?? {},
});
