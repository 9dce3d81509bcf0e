import { useState } from "react";
import { NumberControl } from "../../../parts/NumberControl";
import type { StepOf } from "./steps";
import type { useSteps } from "./useSteps";

type VariantControlsProps = {
  at: number;
  step: StepOf<"variant">;
  steps: ReturnType<typeof useSteps>;
  /** How much the picture follows a pattern, where that was measured. */
  structure: number | undefined;
};

const RANDOM = 0.18; // as the server judges it

/** Which of its pictures, and from how many places each is put together. */
export function VariantControls({ at, step, steps, structure }: VariantControlsProps) {
  const [moving, setMoving] = useState<number | null>(null);
  const keep = (told: Partial<typeof step>) => steps.change(at, { ...step, ...told });
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      <div className="flex items-center gap-1.5">
        <span className="w-[84px] shrink-0">Seed</span>
        <span className="text-sm text-ink2">{step.seed}</span>
        <button
          type="button"
          className="button ml-auto"
          disabled={steps.isBusy}
          onClick={() => keep({ seed: step.seed + 1 })}
        >
          Another one
        </button>
        <button
          type="button"
          className="button"
          disabled={steps.isBusy || step.seed === 1}
          onClick={() => keep({ seed: step.seed - 1 })}
        >
          The one before
        </button>
      </div>
      <NumberControl
        label="Places"
        plain="How many places of the picture lie side by side. Fewer keep larger parts whole."
        unit="across"
        low={2}
        high={12}
        whole
        value={moving ?? step.cells}
        initial={4}
        onMove={(count) => {
          setMoving(count);
          steps.tryStep(at, { ...step, cells: count });
        }}
        onDone={(count) => {
          setMoving(null);
          keep({ cells: count });
        }}
      />
      {structure !== undefined && structure >= RANDOM && (
        <p className="text-sm text-ink2">
          This picture follows a pattern in part: its forms are blended into each other.
        </p>
      )}
    </div>
  );
}
