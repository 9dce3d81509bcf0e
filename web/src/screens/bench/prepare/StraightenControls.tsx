import { useState } from "react";
import { NumberControl } from "../../../parts/NumberControl";
import { NumberField } from "../../../parts/NumberField";
import { Segments } from "../../../parts/Segments";
import { useView } from "../view";
import { type StepOf, WHOLE } from "./steps";
import type { Preparing } from "./useSteps";

type StraightenControlsProps = {
  at: number;
  step: StepOf<"straighten">;
  steps: Preparing;
  sides: number | null;
};

/** Four points on the picture, how wide it is for its height, and the bulge of the lens. */
export function StraightenControls({ at, step, steps, sides }: StraightenControlsProps) {
  const [moving, setMoving] = useState<number | null>(null);
  const shows = useView((view) => view.prep?.shows ?? "picture");
  const showPrep = useView((view) => view.showPrep);
  const keep = (told: Partial<typeof step>) => steps.change(at, { ...step, ...told });
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      <Segments
        label="What is shown"
        options={[
          ["picture", "Picture and points"],
          ["result", "Straight"],
        ]}
        value={shows}
        onChange={showPrep}
      />
      <p className="text-sm text-ink2">
        Drag the four points to the corners of something that is a rectangle in truth.
      </p>
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="w-[84px] shrink-0">Sides</span>
        <NumberField
          label="Width over height"
          low={0.05}
          high={20}
          isEmptyTaken
          value={step.aspect?.toFixed(3) ?? sides?.toFixed(3) ?? ""}
          className="w-16 text-right"
          onDone={(aspect) => keep({ aspect })}
        />
        <span className="text-sm text-ink2">
          : 1, {step.aspect === null ? "estimated" : "told"}
        </span>
      </div>
      <div className="flex gap-1.5 pl-[90px]">
        <button
          type="button"
          className="button"
          disabled={step.aspect === null || steps.isBusy}
          onClick={() => keep({ aspect: null, lens: "weighed" })}
        >
          Estimate the sides
        </button>
        <button
          type="button"
          className="button"
          disabled={steps.isBusy || String(step.points) === String(WHOLE)}
          onClick={() => keep({ points: WHOLE })}
        >
          Whole picture
        </button>
      </div>
      <NumberControl
        label="Lens bulge"
        plain="Takes out what a lens bent: above 0 where straight lines bow outwards, below 0 where they bow inwards."
        unit="%"
        low={-50}
        high={50}
        value={moving ?? step.bulge * 100}
        initial={0}
        onMove={(percent) => {
          setMoving(percent);
          if (shows !== "result") showPrep("result");
          steps.tryStep(at, { ...step, bulge: percent / 100 });
        }}
        onDone={(percent) => {
          setMoving(null);
          keep({ bulge: percent / 100 });
        }}
      />
    </div>
  );
}
