import { memo, useState } from "react";
import { Link } from "react-router";
import { type DensityRow, foundOn } from "../../api/assays";
import type { AssayRow, TextureSet } from "../../api/client";
import { GRADE_ORDER, GradeCount } from "../../parts/grades";
import { Hint, Near } from "../../parts/Hint";
import { Swatch } from "./Swatch";

/** How a card is selected: beside others, or as the end of a range. */
export type How = { isMore: boolean; isRange: boolean };

/** Counts of stops and checks; notes are for the assay. */
function Found({ set, found, density }: Pick<CardProps, "set" | "found" | "density">) {
  const rows = foundOn(set.id, found, density);
  return GRADE_ORDER.filter((grade) => grade !== "note").map((grade) => {
    const own = rows.filter((row) => row.finding.grade === grade);
    return (
      own.length > 0 && (
        <Hint key={grade} says={own.map((row) => row.finding.text).join("\n")}>
          <span className="text-sm text-ink2">
            <GradeCount grade={grade} count={own.length} />
          </span>
        </Hint>
      )
    );
  });
}

type CardProps = {
  set: TextureSet;
  found: AssayRow[] | undefined;
  density: DensityRow[];
  address: string;
  isChosen: boolean;
  onChoose: (id: string, how: How) => void;
  onRemove: (set: TextureSet) => void;
};

/** One set, drawn anew only when it changed itself. */
export const Card = memo(function Card({
  set,
  found,
  density,
  address,
  isChosen,
  onChoose,
  onRemove,
}: CardProps) {
  const [isNear, setNear] = useState(false);
  return (
    <div
      className={`group relative self-start ${isChosen ? "outline-2 outline-offset-4 outline-copper" : ""}`}
      data-set={set.id}
      onPointerEnter={() => setNear(true)}
      onFocus={() => setNear(true)}
    >
      <input
        type="checkbox"
        aria-label={`Select ${set.name}`}
        className="absolute top-2 left-2 z-10 size-4 opacity-0 group-hover:opacity-100
          checked:opacity-100 focus-visible:opacity-100"
        checked={isChosen}
        onChange={() => {}}
        onClick={(e) => onChoose(set.id, { isMore: e.ctrlKey || e.metaKey, isRange: e.shiftKey })}
      />
      <Hint says="Take off the tray">
        <button
          type="button"
          className="button absolute top-2 right-2 z-10 w-[26px] justify-center px-0 opacity-0
            group-hover:opacity-100 focus-visible:opacity-100"
          aria-label={`Take ${set.name} off the tray`}
          onClick={() => onRemove(set)}
        >
          ×
        </button>
      </Hint>
      <Near value={isNear}>
        <Link to={address} className="block">
          <div className="relative aspect-square overflow-hidden rounded-[3px] bg-surround">
            <Swatch address={`/api/sets/${set.id}/swatch?head=${set.head}`} />
            <i className="absolute right-0 bottom-0 border-[9px] border-hair border-r-paper border-b-paper" />
          </div>
          <p className="mt-1.5 flex items-baseline justify-between gap-2">
            <b className="truncate font-semibold">{set.name}</b>
            <Found set={set} found={found} density={density} />
          </p>
          <OriginMarks set={set} />
        </Link>
      </Near>
    </div>
  );
});

const BARS = {
  given: "bg-copper",
  derived: "bg-copper/40",
  constant: "border border-ink2",
  absent: "border-b border-ink2/60", // dots would take longer to draw than everything else of a card
};

/** One bar a master, by where it comes from. */
function OriginMarks({ set }: { set: TextureSet }) {
  const said = set.masters.map((m) => `${m.title}: ${m.origin}`).join("\n");
  return (
    <Hint says={said}>
      <div role="img" aria-label={said} className="mt-1 flex gap-[3px]">
        {set.masters.map((m) => (
          <i key={m.key} className={`h-[5px] w-[15px] rounded-xs ${BARS[m.origin]}`} />
        ))}
      </div>
    </Hint>
  );
}
