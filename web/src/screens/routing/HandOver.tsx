import type { Target } from "../../api/client";
import { Line } from "../../parts/Line";
import { TypedField } from "../../parts/TypedField";

type HandOverProps = { target: Target; onChange: (change: (target: Target) => Target) => void };

/**
 * What the hand-over note says besides what the table says by itself: a few words on top, more
 * steps, how it looks when wrong.
 */
export function HandOver({ target, onChange }: HandOverProps) {
  const steps = target.steps ?? [];
  const wrong = Object.entries(target.looks_wrong ?? {});
  const withSteps = (next: string[]) => onChange((now) => ({ ...now, steps: next }));
  const withWrong = (next: [string, string][]) =>
    onChange((now) => ({ ...now, looks_wrong: Object.fromEntries(next) }));
  return (
    <details className="mt-3 max-w-[720px]">
      <summary className="cursor-pointer font-semibold">
        What the hand-over note says besides
      </summary>
      <div className="mt-2 flex flex-col gap-2">
        <Line label="On top">
          <TypedField
            label="About the target"
            className="min-w-0 grow"
            value={target.notes ?? ""}
            onDone={(notes) => onChange((now) => ({ ...now, notes }))}
          />
        </Line>
        {steps.map((step, k) => (
          <Line key={k} label={k ? "" : "More steps"}>
            <TypedField
              label={`Step ${k + 1}`}
              className="min-w-0 grow"
              value={step}
              onDone={(text) => withSteps(steps.map((one, at) => (at === k ? text : one)))}
            />
            <button
              type="button"
              className="button"
              aria-label={`Take step ${k + 1} out`}
              onClick={() => withSteps(steps.filter((_, at) => at !== k))}
            >
              ×
            </button>
          </Line>
        ))}
        <Line label={steps.length ? "" : "More steps"}>
          <TypedField
            label="One more step"
            placeholder="+ a step"
            className="min-w-0 grow"
            value=""
            onDone={(text) => text && withSteps([...steps, text])}
          />
        </Line>
        {wrong.map(([looks, why], k) => (
          <Line key={looks} label={k ? "" : "If it looks"}>
            <TypedField
              label={`Looks wrong ${k + 1}`}
              className="w-56"
              value={looks}
              onDone={(text) => withWrong(wrong.map((one, at) => (at === k ? [text, why] : one)))}
            />
            <TypedField
              label={`Why ${k + 1}`}
              className="min-w-0 grow"
              value={why}
              onDone={(text) => withWrong(wrong.map((one, at) => (at === k ? [looks, text] : one)))}
            />
            <button
              type="button"
              className="button"
              aria-label={`Take ${looks} out`}
              onClick={() => withWrong(wrong.filter((_, at) => at !== k))}
            >
              ×
            </button>
          </Line>
        ))}
        <Line label={wrong.length ? "" : "If it looks"}>
          <TypedField
            label="One more look that is wrong"
            placeholder="+ how it looks when wrong"
            className="w-56"
            value=""
            onDone={(text) => text && withWrong([...wrong, [text, "…"]])}
          />
        </Line>
      </div>
    </details>
  );
}
