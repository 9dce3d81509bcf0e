import type { Target } from "../../api/client";
import { useFormats } from "../../api/tables";
import { Choice, optionsOf } from "../../parts/Choice";
import { Hint } from "../../parts/Hint";
import { Line } from "../../parts/Line";
import { depthKey, depthOptions, FORMATS } from "../../parts/stored";
import { TypedField } from "../../parts/TypedField";
import { meaning } from "../../parts/words";
import { Chips } from "./Chips";
import {
  LETTERS,
  rowOf,
  type TargetFile,
  withAlphaApart,
  withDepth,
  withFile,
  withFormat,
  withLetters,
  withoutFile,
} from "./edit";

const COLORS = optionsOf<TargetFile["color"] | "acescg">({
  srgb: "Color (sRGB)",
  linear: "Color (linear)",
  acescg: "Color (ACEScg)",
  data: "Data",
});

const SWITCHES = [
  ["power_of_two", "sides are powers of two"],
  ["pixel_art", "shrunk without averaging, as pixel art"],
  ["dither", "dithered, where masters know more than 8 bits"],
  ["seldom", "listed only where the set has a map for it"],
] as const;

type FilePanelProps = {
  target: Target;
  file: TargetFile;
  memory: { plain: number; block: number } | null;
  onChange: (change: (target: Target) => Target) => void;
};

/** Whether a file without its fourth channel would cost half in blocks: colors and grays do. */
const doublesMemory = ({ channels, sample }: TargetFile) =>
  sample === "uint" && Object.values(channels).every(({ component }) => !XYZ.includes(component));
const XYZ = ["x", "y", "z"];

/** One file of a target: its name from chips, how it is stored, what it costs. */
export function FilePanel({ target, file, memory, onChange }: FilePanelProps) {
  const change = (part: Partial<TargetFile>) =>
    onChange((now) => withFile(now, file.role, (f) => ({ ...f, ...part })));
  const put = (made: (file: TargetFile) => TargetFile) =>
    onChange((now) => withFile(now, file.role, made));
  const formats = useFormats();
  const format = rowOf(formats, file.format);
  const letters = Object.keys(file.channels).join("");
  const alpha = doublesMemory(file) ? file.channels.A?.quantity : null;
  return (
    <section
      aria-label={`File ${file.title}`}
      className="mb-4 flex flex-col gap-2 border-t border-hair pt-3"
    >
      <h2>The file</h2>
      <Line label="Name" isHigh>
        <Chips name={file.name} onChange={(name) => change({ name })} />
      </Line>
      <Line label="Map word" says={meaning("map word")}>
        <TypedField
          label="Map word"
          className="w-0 min-w-0 grow"
          value={file.word}
          onDone={(word) => change({ word })}
        />
      </Line>
      <Line label="Stored as">
        <Choice
          label="Format"
          className="w-20"
          options={FORMATS}
          value={file.format}
          onChange={(key) => put((f) => withFormat(f, rowOf(formats, key)))}
        />
        <Choice
          label="Depth"
          className="w-24"
          options={depthOptions(format.depths)}
          value={depthKey(file)}
          onChange={(value) => {
            const depth = format.depths.find((one) => depthKey(one) === value);
            if (depth) put((f) => withDepth(f, depth));
          }}
        />
      </Line>
      {format.is_layered && (
        <Line label="Layer of" says={meaning("layered file")}>
          <TypedField
            label="Map word of the layered file"
            className="w-0 min-w-0 grow"
            placeholder="none: a file of its own"
            value={file.layer_of ?? ""}
            onDone={(word) => change({ layer_of: word.trim() })}
          />
        </Line>
      )}
      <Line label="Holds">
        <Choice
          label="Color or data"
          className="w-30"
          options={COLORS}
          value={file.primaries === "acescg" ? "acescg" : file.color}
          onChange={(color) =>
            change(
              color === "acescg"
                ? { color: "linear", primaries: "acescg" }
                : { color, primaries: "rec709" },
            )
          }
        />
        <Choice
          label="Channels of the file"
          className="w-20"
          options={LETTERS.map((l) => [l, [...l].join(" ")] as const)}
          value={letters}
          onChange={(l) => onChange((now) => withFile(now, file.role, (f) => withLetters(f, l)))}
        />
      </Line>
      <Hint says="A file that holds nothing of the set is left out, unless the receiving side cannot do without it.">
        <label className="grid gap-0.5 text-sm text-ink2">
          Needed even flat, because
          <TypedField
            label={`Why ${file.title} is needed even flat`}
            value={file.required ?? ""}
            placeholder="it is not: left out when the set has nothing for it"
            className="text-base text-ink"
            onDone={(required) => change({ required: required.trim() })}
          />
        </label>
      </Hint>
      <details>
        <summary className="cursor-pointer text-sm text-ink2">Size, padding, rounding</summary>
        <div className="mt-2 flex flex-col gap-2">
          <Line label="Longest">
            <TypedField
              label="Longest side in px"
              inputMode="numeric"
              placeholder="any"
              className="w-16 text-right"
              value={file.size_cap ? String(file.size_cap) : ""}
              onDone={(text) => change({ size_cap: Number(text) || null })}
            />{" "}
            <span className="pt-1">px, at</span>
            <TypedField
              label="Share of the set's size"
              inputMode="decimal"
              className="w-14 text-right"
              value={String(file.size_share ?? 1)}
              onDone={(text) => change({ size_share: Number(text.replace(",", ".")) })}
            />{" "}
            <span className="pt-1">× the set</span>
          </Line>
          <Line label="Padding" says={meaning("padding")}>
            <TypedField
              label="Padding in texels"
              inputMode="numeric"
              className="w-16 text-right"
              value={String(file.padding ?? 0)}
              onDone={(text) => change({ padding: Number(text) })}
            />{" "}
            <span className="pt-1">texels under holes</span>
          </Line>
          {SWITCHES.map(([key, title]) => (
            <label key={key} className="flex items-center gap-2 text-sm text-ink2">
              <input
                type="checkbox"
                checked={file[key] ?? false}
                onChange={(e) => change({ [key]: e.target.checked })}
              />{" "}
              {title}
            </label>
          ))}
        </div>
      </details>
      {letters === "RGBA" && memory && alpha && (
        <p className="text-sm text-ink2">
          The fourth channel doubles what block compression costs: {(memory.block / 1e6).toFixed(1)}{" "}
          MB. Two files of three channels cost the same and hold six.
          <button
            type="button"
            className="button ml-2"
            onClick={() => onChange((now) => withAlphaApart(now, file.role, titleOf(alpha)))}
          >
            Make it two
          </button>
        </p>
      )}
      <button
        type="button"
        className="button self-start"
        disabled={target.files.length < 2}
        onClick={() => onChange((now) => withoutFile(now, file.role))}
      >
        Drop this file
      </button>
    </section>
  );
}

const titleOf = (key: string) =>
  key
    .replace("own_", "")
    .replaceAll("_", " ")
    .replace(/^./, (first) => first.toUpperCase());
