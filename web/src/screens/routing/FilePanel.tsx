import { useState } from "react";
import type { Target } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { TypedField } from "../../parts/TypedField";
import { LETTERS, type TargetFile, withAlphaApart, withFile, withLetters, withoutFile } from "./edit";

const PARTS = [["set", "Set"], ["map", "Map word"], ["size", "Size"], ["project", "Project"], ["target", "Target"]] as const;
const FORMATS = [["png", "PNG"], ["tga", "TGA"], ["tiff", "TIFF"], ["exr", "EXR"], ["jpeg", "JPEG"]] as const;
const DEPTHS = [["8 uint", "8 bit"], ["16 uint", "16 bit"], ["16 float", "Half float"], ["32 float", "Float"]] as const;
const COLORS = [["srgb", "Color (sRGB)"], ["linear", "Color (linear)"], ["data", "Data"]] as const;

type FilePanelProps = { target: Target; file: TargetFile; memory: { plain: number; block: number } | null; onChange: (change: (target: Target) => Target) => void };

/** One file of a target: its name from chips, how it is stored, what it costs. */
export function FilePanel({ target, file, memory, onChange }: FilePanelProps) {
  const change = (part: Partial<TargetFile>) => onChange((now) => withFile(now, file.role, (f) => ({ ...f, ...part })));
  const letters = Object.keys(file.channels).join("");
  const alpha = file.channels.A?.quantity;
  return (
    <section aria-label={`File ${file.title}`} className="mb-4 flex flex-col gap-2 border-t border-hair pt-3">
      <h2>The file</h2>
      <Line label="Name"><Chips name={file.name} onChange={(name) => change({ name })} /></Line>
      <Line label="Map word"><TypedField label="Map word" className="w-full" value={file.word} onDone={(word) => change({ word })} /></Line>
      <Line label="Stored as">
        <Choice label="Format" className="w-20" options={FORMATS} value={file.format} onChange={(format) => change({ format })} />
        <Choice label="Depth" className="w-24" options={DEPTHS} value={`${file.depth} ${file.sample}` as "8 uint"} onChange={(value) => { const [depth, sample] = value.split(" "); change({ depth: Number(depth) as 8, sample: sample as "uint" }); }} />
      </Line>
      <Line label="Holds">
        <Choice label="Color or data" className="w-32" options={COLORS} value={file.color} onChange={(color) => change({ color })} />
        <Choice label="Channels of the file" className="w-20" options={LETTERS.map((l) => [l, [...l].join(" ")] as const)} value={letters as "L"} onChange={(l) => onChange((now) => withFile(now, file.role, (f) => withLetters(f, l)))} />
      </Line>
      <label className="flex items-center gap-2 text-sm text-ink2"><input type="checkbox" checked={file.optional ?? false} onChange={(e) => change({ optional: e.target.checked })} /> left out when the set has nothing for it</label>
      {letters === "RGBA" && memory && alpha && alpha !== "opacity" && (
        <p className="text-sm text-ink2">
          The fourth channel doubles what block compression costs: {(memory.block / 1e6).toFixed(1)} MB. As two files it is {((memory.block * 0.75) / 1e6).toFixed(1)} MB.
          <button className="button ml-2" onClick={() => onChange((now) => withAlphaApart(now, file.role, alpha === "gloss" ? "Gloss" : alpha.replace("own_", "")))}>Make it two</button>
        </p>
      )}
      <button className="button self-start" disabled={target.files.length < 2} onClick={() => onChange((now) => withoutFile(now, file.role))}>Drop this file</button>
    </section>
  );
}

type Name = TargetFile["name"];

/** A name as chips in order: text to type, words that are filled in; each can be taken out, more are put at the end. */
function Chips({ name, onChange }: { name: Name; onChange: (name: Name) => void }) {
  const [text, setText] = useState("");
  const handleText = () => {
    if (text) onChange([...name, text]);
    setText("");
  };
  return (
    <div className="flex flex-wrap items-center gap-1">
      {name.map((part, k) => (
        <span key={k} className={`flex items-center gap-1 rounded-full border pl-2 ${typeof part === "string" ? "file-name border-hair" : "border-copper text-copper"}`}>
          {typeof part === "string" ? part : PARTS.find(([key]) => key === part.part)?.[1]}
          <button className="cursor-pointer px-1.5 text-ink2" aria-label={`Take ${typeof part === "string" ? part : part.part} out of the name`} disabled={name.length === 1} onClick={() => onChange(name.filter((_, at) => at !== k))}>×</button>
        </span>
      ))}
      <select aria-label="Add a chip" className="field w-24" value="" onChange={(e) => e.target.value && onChange([...name, { part: e.target.value as "set" }])}>
        <option value="">+ chip</option>
        {PARTS.map(([key, title]) => <option key={key} value={key}>{title}</option>)}
      </select>
      <input aria-label="Add text to the name" placeholder="+ text" className="field w-16" value={text} onChange={(e) => setText(e.target.value)} onBlur={handleText} onKeyDown={(e) => e.key === "Enter" && handleText()} />
    </div>
  );
}

function Line({ label, children }: { label: string; children: React.ReactNode }) {
  return <div className="flex items-start gap-1.5"><span className="w-[68px] shrink-0 pt-1">{label}</span>{children}</div>;
}
