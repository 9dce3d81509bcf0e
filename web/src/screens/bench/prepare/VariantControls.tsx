import { useState } from "react";
import type { TextureSet } from "../../../api/client";
import { NumberControl } from "../../../parts/NumberControl";
import { Segments } from "../../../parts/Segments";
import { CopySet } from "../CopySet";
import { Shown } from "./Shown";
import type { StepOf } from "./steps";
import type { Preparing } from "./useSteps";

type VariantControlsProps = {
  at: number;
  step: StepOf<"variant">;
  steps: Preparing;
  set: TextureSet;
  project: string;
  /** How much the picture follows a pattern, where that was measured. */
  structure: number | undefined;
};

const RANDOM = 0.18; // as the server judges it

/** Which of its pictures, how it is put together, and from how many places across. */
export function VariantControls({
  at,
  step,
  steps,
  set,
  project,
  structure,
}: VariantControlsProps) {
  const [moving, setMoving] = useState<number | null>(null);
  const { seed, cells, pieces } = step;
  const handleAsked = (told: { seed?: number; cells?: number }) =>
    pieces ? steps.vary(at, { seed, cells, ...told }) : steps.change(at, { ...step, ...told });
  const handleMove = (count: number) => {
    setMoving(count);
    if (!pieces) steps.tryStep(at, { ...step, cells: count });
  };
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      <Segments
        label="How it is put together"
        options={[
          ["pieces", "Pieces, cut"],
          ["blended", "Places, blended"],
        ]}
        value={pieces ? "pieces" : "blended"}
        onChange={(way) =>
          way === "pieces"
            ? steps.vary(at, { seed, cells })
            : steps.change(at, { ...step, pieces: null })
        }
      />
      <div className="flex items-center gap-1.5">
        <span className="w-[84px] shrink-0">Seed</span>
        <span className="text-sm text-ink2">{seed}</span>
        <button
          type="button"
          className="button ml-auto"
          disabled={steps.isBusy}
          onClick={() => handleAsked({ seed: seed + 1 })}
        >
          Another one
        </button>
        <button
          type="button"
          className="button"
          disabled={steps.isBusy || seed === 1}
          onClick={() => handleAsked({ seed: seed - 1 })}
        >
          The one before
        </button>
      </div>
      <div className="pl-[90px]">
        <CopySet
          set={set}
          project={project}
          title="Keep as a set"
          says="This picture becomes a set of its own, beside this one; then look at another one here."
          isBusy={steps.isBusy}
        />
      </div>
      <NumberControl
        label={pieces ? "Pieces" : "Places"}
        plain="How many places of the picture lie side by side. Fewer keep larger parts whole, and pieces are found sooner."
        unit="across"
        low={2}
        high={pieces ? 8 : 12}
        whole
        value={moving ?? cells}
        initial={4}
        onMove={handleMove}
        onDone={(count) => {
          setMoving(null);
          handleAsked({ cells: count });
        }}
      />
      {pieces && <Shown seen={pieces.seen} isDeciding={steps.isDeciding} />}
      {!pieces && structure !== undefined && structure >= RANDOM && (
        <p className="text-sm text-ink2">
          This picture follows a pattern in part: its forms are blended into each other.
        </p>
      )}
    </div>
  );
}
