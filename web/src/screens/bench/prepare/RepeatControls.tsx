import { useState } from "react";
import { Hint } from "../../../parts/Hint";
import { NumberControl } from "../../../parts/NumberControl";
import { NumberField } from "../../../parts/NumberField";
import { Segments } from "../../../parts/Segments";
import { useView } from "../view";
import type { RepeatAsked } from "./asking";
import { Shown } from "./Shown";
import type { StepOf } from "./steps";
import type { Preparing } from "./useSteps";

type RepeatControlsProps = {
  at: number;
  step: StepOf<"repeat">;
  steps: Preparing;
  children?: React.ReactNode; // what is known of the tile itself
};

const TOOLS = [
  ["keep", "Keep", "Paint on the picture what the tile must keep as it is."],
  ["avoid", "Avoid", "Paint on the picture where the line had better not run."],
] as const;
const SAYS = {
  evens:
    "Takes the light that falls off across the photo out of its colors before the copies " +
    "are laid over each other; else it stays as bands.",
  square:
    "As many texels across as down, where the copies fit best so: a square tile can be " +
    "given a power of two.",
  follows:
    "Finds the steps that the pattern repeats by, turns the picture straight by them, and" +
    " takes as many whole repeats as there is room for.",
};
const NO_GUIDE = { keep: [], avoid: [] };

/**
 * How large the tile is, how much of the picture lies over itself, where the line may run, and how
 * much it shows.
 */
export function RepeatControls({ at, step, steps, children }: RepeatControlsProps) {
  const [moving, setMoving] = useState<number | null>(null);
  const prep = useView((view) => view.prep);
  const set = useView((view) => view.set);
  const showPrep = useView((view) => view.showPrep);
  const asked = steps.askedAt(at, step);
  const decide = (told: Partial<RepeatAsked>) => steps.repeat(at, { ...asked, ...told });
  const overlap = step.overlap ?? (step.x ?? step.y)?.overlap ?? 0;
  const painted = step.guide.keep.length + step.guide.avoid.length;
  const handleTool = (name: "keep" | "avoid") =>
    prep && set({ prep: { ...prep, shows: "picture", tool: prep.tool === name ? null : name } });
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      <Segments
        label="What is shown"
        options={[
          ["picture", "Picture and line"],
          ["result", "3 × 3, as it repeats"],
        ]}
        value={prep?.shows ?? "picture"}
        onChange={showPrep}
      />
      <Sides step={step} asked={asked} decide={decide} isBusy={steps.isBusy} />
      {children}
      <Pattern at={at} step={step} steps={steps} decide={decide} />
      <NumberControl
        label="Overlap"
        plain="How much of the tile the two copies share. The line runs there: more leaves it more choice."
        unit="% of tile"
        low={4}
        high={60}
        value={moving ?? overlap * 100}
        initial={step.overlap === null ? overlap * 100 : -1}
        onMove={(percent) => {
          setMoving(percent);
          steps.tryRepeat(at, { ...asked, overlap: percent / 100 });
        }}
        onDone={(percent) => {
          setMoving(null);
          decide({ overlap: percent < 0 ? null : percent / 100 });
        }}
      />
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="w-[84px] shrink-0">Line</span>
        {TOOLS.map(([name, title, says]) => (
          <Hint key={name} says={says}>
            <button
              type="button"
              className="button aria-pressed:border-copper aria-pressed:bg-wash"
              aria-pressed={prep?.tool === name}
              onClick={() => handleTool(name)}
            >
              {title}
            </button>
          </Hint>
        ))}
        <button
          type="button"
          className="button"
          disabled={!painted || steps.isBusy}
          onClick={() => decide({ guide: NO_GUIDE })}
        >
          Wipe
        </button>
      </div>
      <div className="flex gap-1.5 pl-[90px]">
        <button
          type="button"
          className="button"
          disabled={steps.isBusy || step.sides.every((side) => side === null)}
          onClick={() => decide({ sides: [null, null] })}
        >
          Fit the tile again
        </button>
        <button type="button" className="button" disabled={steps.isBusy} onClick={() => decide({})}>
          Find the line again
        </button>
      </div>
      <Hint says={SAYS.evens}>
        <label className="flex items-center gap-1 pl-[90px]">
          <input
            type="checkbox"
            checked={(steps.isDeciding && asked.evens) || (!steps.isDeciding && step.even !== null)}
            disabled={steps.isBusy}
            onChange={(e) => decide({ evens: e.target.checked })}
          />
          Even the light first
        </label>
      </Hint>
      <Shown seen={step.seen} isQuick={step.is_quick} isDeciding={steps.isDeciding} />
    </div>
  );
}

type SidesProps = {
  step: StepOf<"repeat">;
  asked: RepeatAsked;
  decide: (told: Partial<RepeatAsked>) => void;
  isBusy: boolean;
};

/** The tile's sides as shares of the picture's, and which of the axes repeat. */
function Sides({ step, asked, decide, isBusy }: SidesProps) {
  const [x, y] = step.sides;
  const axes = [["x", "across"] as const, ["y", "down"] as const];
  const handleSide = (axis: "x" | "y", percent: number | null) => {
    const side = percent === null ? null : percent / 100;
    const [across, down] = asked.is_square ? [null, null] : [x, y]; // a square has one side
    decide({ sides: axis === "x" ? [side, down] : [across, side] });
  };
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <span className="w-[84px] shrink-0">Tile</span>
      {axes.map(([axis, says]) => (
        <span key={axis} className="flex items-center gap-1">
          <input
            type="checkbox"
            aria-label={`Repeat ${says}`}
            checked={asked[axis]}
            disabled={isBusy || (asked[axis] && !asked[axis === "x" ? "y" : "x"])}
            onChange={(e) => decide({ [axis]: e.target.checked })}
          />
          <NumberField
            label={`Tile ${says}`}
            low={30}
            high={97}
            unit="%"
            isEmptyTaken
            value={percentOf(step[axis])}
            placeholder={says}
            className="w-14 text-right"
            onDone={(percent) => handleSide(axis, percent)}
          />
          <span className="text-sm text-ink2">% {says}</span>
        </span>
      ))}
      {asked.x && asked.y && (
        <Hint says={SAYS.square}>
          <label className="flex items-center gap-1 pl-[90px]">
            <input
              type="checkbox"
              checked={asked.is_square}
              disabled={isBusy}
              onChange={(e) => decide({ is_square: e.target.checked, sides: [null, null] })}
            />
            Square
          </label>
        </Hint>
      )}
    </div>
  );
}

const percentOf = (join: StepOf<"repeat">["x"]) => (join ? (join.side * 100).toFixed(1) : "");

const HAS_LATTICE = 0.25; // as the server judges it
const ROOM = 0.97; // of the picture: the largest tile that can be asked for

type PatternProps = RepeatControlsProps & { decide: (told: Partial<RepeatAsked>) => void };

/** Whole repeats of the picture's own pattern in the tile, where it has one. */
function Pattern({ at, step, steps, decide }: PatternProps) {
  const { period, structure } = step;
  if (structure < HAS_LATTICE && !period.some((one) => one !== null)) return null;
  const handleTimes = (axis: 0 | 1, times: number) => {
    const sides: RepeatAsked["sides"] = [...step.sides];
    const one = period[axis];
    if (one !== null) sides[axis] = Math.min(ROOM, times * one);
    decide({ sides, is_square: false });
  };
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <span className="w-[84px] shrink-0">Pattern</span>
      {period.every((one) => one === null) ? (
        <Hint says={SAYS.follows}>
          <button
            type="button"
            className="button"
            disabled={steps.isBusy}
            onClick={() => steps.follow(at)}
          >
            Follow it
          </button>
        </Hint>
      ) : (
        ([0, 1] as const).map((axis) => {
          const [one, join] = [period[axis], axis ? step.y : step.x];
          return one !== null && join !== null ? (
            <span key={axis} className="flex items-center gap-1">
              <NumberField
                label={axis ? "Repeats of the pattern down" : "Repeats of the pattern across"}
                low={1}
                high={Math.max(1, Math.floor(ROOM / one))}
                value={(join.side / one).toFixed(2).replace(/\.00$/, "")}
                className="w-14 text-right"
                onDone={(times) => times !== null && handleTimes(axis, Math.round(times))}
              />
              <span className="text-sm text-ink2">{axis ? "of it down" : "of it across"}</span>
            </span>
          ) : null;
        })
      )}
    </div>
  );
}
