import { useState } from "react";
import { Menu } from "../../parts/Menu";
import { movedPart, type TargetFile, withPart } from "./edit";

const PARTS = [
  ["set", "Set"],
  ["map", "Map word"],
  ["size", "Size"],
  ["project", "Project"],
  ["target", "Target"],
  ["tile", "Tile number"],
] as const;
type Name = TargetFile["name"];

/**
 * A name as chips in order: text to type, words that are filled in; each can be taken out or moved,
 * by hand or by arrows, more are put at the end.
 */
export function Chips({ name, onChange }: { name: Name; onChange: (name: Name) => void }) {
  const [text, setText] = useState("");
  const handleText = () => {
    if (text) onChange(withPart(name, text));
    setText("");
  };
  return (
    <div className="flex flex-wrap items-center gap-1">
      {name.map((part, k) => (
        <span
          key={k}
          tabIndex={0}
          role="group"
          aria-label={`Part ${k + 1} of ${name.length}: ${typeof part === "string" ? part : part.part}. Arrows move it`}
          draggable
          onKeyDown={(e) => {
            const to = { ArrowLeft: k - 1, ArrowRight: k + 1 }[e.key];
            if (to !== undefined && e.target === e.currentTarget) {
              e.preventDefault();
              onChange(movedPart(name, k, to));
            }
          }}
          onDragStart={(e) => e.dataTransfer.setData("text/plain", String(k))}
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            e.preventDefault();
            const from = Number(e.dataTransfer.getData("text/plain"));
            if (from !== k) onChange(movedPart(name, from, k));
          }}
          className={`flex cursor-grab items-center gap-1 rounded-full border pl-2
            ${typeof part === "string" ? "file-name border-hair" : "border-copper text-copper"}`}
        >
          {typeof part === "string" ? part : PARTS.find(([key]) => key === part.part)?.[1]}
          <button
            type="button"
            className="cursor-pointer px-1.5 text-ink2"
            aria-label={`Take ${typeof part === "string" ? part : part.part} out of the name`}
            disabled={name.length === 1}
            onClick={() => onChange(name.filter((_, at) => at !== k))}
          >
            ×
          </button>
        </span>
      ))}
      <Menu
        label="Add a chip"
        options={PARTS}
        onPick={(part) => onChange(withPart(name, { part }))}
      />
      <input
        aria-label="Add text to the name"
        placeholder="+ text"
        className="field w-16"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={handleText}
        onKeyDown={(e) => e.key === "Enter" && handleText()}
      />
    </div>
  );
}
