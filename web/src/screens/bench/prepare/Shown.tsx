import { Hint } from "../../../parts/Hint";
import type { StepOf } from "./steps";

const SHOWS =
  "What differs across the line, over what differs there within the picture: at 1 it " +
  "cannot be told. The worst is the worst short stretch.";
const METER_TOP = 2.6;

type ShownProps = {
  seen: StepOf<"repeat">["seen"];
  /** Whether the line was only sketched. */
  isQuick?: boolean;
  isDeciding: boolean;
};

/** How much the line shows: differences across it over those within the picture. */
export function Shown({ seen, isQuick = false, isDeciding }: ShownProps) {
  const left = (value: number) => `${(Math.min(value, METER_TOP) / METER_TOP) * 100}%`;
  return (
    <Hint says={SHOWS}>
      <div className="flex items-start gap-1.5" tabIndex={0}>
        <span className="w-[84px] shrink-0">It shows</span>
        <span className="relative mt-1.5 h-9 grow">
          <i className="absolute top-0 left-0 h-1.5 bg-verdigris" style={{ width: left(1.1) }} />
          <i
            className="absolute top-0 h-1.5 bg-wash"
            style={{ left: left(1.1), width: `calc(${left(1.75)} - ${left(1.1)})` }}
          />
          <i
            className="absolute top-0 right-0 h-1.5 border border-hair"
            style={{ left: left(1.75) }}
          />
          <Mark at={left(seen.mean)} />
          <Mark at={left(seen.worst)} isDashed />
          <span className="absolute top-3 text-sm text-ink2" role="status">
            {isDeciding
              ? "Looking for the line …"
              : `mean ${seen.mean.toFixed(2)}, worst stretch ${seen.worst.toFixed(2)}`}
            {!isDeciding && isQuick && ", sketched"}
          </span>
        </span>
      </div>
    </Hint>
  );
}

function Mark({ at, isDashed = false }: { at: string; isDashed?: boolean }) {
  return (
    <i
      className={`absolute -top-1 h-3.5 border-l-2
        ${isDashed ? "border-dashed border-ink2" : "border-ink"}`}
      style={{ left: at }}
    />
  );
}
