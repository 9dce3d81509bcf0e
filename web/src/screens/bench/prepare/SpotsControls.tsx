import { Hint } from "../../../parts/Hint";
import { NumberControl } from "../../../parts/NumberControl";
import { useView } from "../view";
import type { StepOf } from "./steps";
import type { Preparing } from "./useSteps";

type SpotsControlsProps = { at: number; step: StepOf<"spots">; steps: Preparing };

/** How large the next spot is, and those that are out. */
export function SpotsControls({ at, step, steps }: SpotsControlsProps) {
  const prep = useView((view) => view.prep);
  const set = useView((view) => view.set);
  const radius = prep?.radius ?? 0.02;
  const keep = (spots: typeof step.spots) => steps.change(at, { ...step, spots });
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      <div className="flex items-center gap-1.5">
        <span className="w-[84px] shrink-0">Take out</span>
        <Hint says="Draw along scratches, hairs and lines. Without it a click takes out a round spot, a drag an oval.">
          <button
            type="button"
            className="button aria-pressed:border-copper aria-pressed:bg-wash"
            aria-pressed={prep?.tool === "brush"}
            onClick={() =>
              prep && set({ prep: { ...prep, tool: prep.tool === "brush" ? null : "brush" } })
            }
          >
            Brush
          </button>
        </Hint>
      </div>
      <NumberControl
        label="Size"
        plain="How far across the next spot is, or the brush, which is 10 % at most. Drag on the picture instead of clicking for an oval."
        unit="% of width"
        low={0.5}
        high={20}
        value={radius * 200}
        initial={4}
        onMove={(percent) => prep && set({ prep: { ...prep, radius: percent / 200 } })}
        onDone={(percent) => prep && set({ prep: { ...prep, radius: percent / 200 } })}
      />
      <p className="text-sm text-ink2">
        {step.spots.length
          ? "Click on another spot. Each is filled from one other place, in all maps alike."
          : "Click on a spot of the picture: it is filled from one other place, in all maps alike."}
      </p>
      <ul className="flex flex-col gap-1">
        {step.spots.map((spot, k) => (
          <li
            key={`${spot.x} ${spot.y} ${spot.across}`}
            className="flex items-center gap-1.5"
            onPointerEnter={() => prep && set({ prep: { ...prep, pointed: k } })}
            onPointerLeave={() => prep && set({ prep: { ...prep, pointed: null } })}
          >
            <span className="grow text-sm">
              Spot {k + 1}
              <span className="text-ink2">
                {" "}
                at {(spot.x * 100).toFixed(0)}, {(spot.y * 100).toFixed(0)} %,{" "}
                {(spot.across * 200).toFixed(1)} % across{spot.brush > 0 && ", brushed"}
              </span>
            </span>
            <button
              type="button"
              className="button"
              disabled={steps.isBusy}
              aria-label={`Another place for spot ${k + 1}`}
              onClick={() => steps.another(at, k)}
            >
              Another place
            </button>
            <button
              type="button"
              className="button"
              disabled={steps.isBusy}
              aria-label={`Put back spot ${k + 1}`}
              onClick={() => keep(step.spots.filter((_, other) => other !== k))}
            >
              Put back
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
