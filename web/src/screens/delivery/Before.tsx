import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Plan, type Delivery as Run, settled } from "../../api/client";
import { Problem } from "../../parts/grades";
import { Proof } from "./Proof";

type BeforeProps = {
  project: string;
  heads: string;
  state: Run["state"] | undefined;
  benchOf: (plan: Plan) => string | null;
};

/** What was delivered before, newest first, and whether a set has changed since. */
export function Before({ project, heads, state, benchOf }: BeforeProps) {
  const before = useQuery({
    queryKey: ["deliveries", project, heads, state],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/deliveries", { params: { path: { project } } })),
    placeholderData: keepPreviousData,
  });
  const rows = before.data ?? [];
  if (!rows.length) return <Problem error={before.error} />;
  return (
    <section className="mt-6" aria-label="Delivered before">
      <h2 className="mb-1">Delivered before</h2>
      <table className="w-full border-collapse">
        <thead>
          <tr>
            <th>Folder below deliveries</th>
            <th>What</th>
            <th>State</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((run) => (
            <Delivered key={run.id} run={run} benchOf={benchOf} />
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** One delivery, and the proof of one of its sets when that is asked for. */
function Delivered({ run, benchOf }: { run: Run; benchOf: BeforeProps["benchOf"] }) {
  const [proved, setProved] = useState<Plan | null>(null);
  const isDone = run.state === "done";
  const isProved = (plan: Plan) => proved?.set === plan.set && proved.target === plan.target;
  return (
    <>
      <tr>
        <td className="file-name">{run.folder}</td>
        <td>
          {run.plans.map((plan) => (
            <span key={plan.set + plan.target} className="block">
              {plan.set} → {plan.target_title}
              {isDone && (
                <>
                  {" "}
                  ·{" "}
                  <a
                    className="underline"
                    target="_blank"
                    rel="noreferrer"
                    href={`/api/deliveries/${run.id}/note?${new URLSearchParams({ set: plan.set, target: plan.target })}`}
                  >
                    hand-over note
                  </a>
                </>
              )}
              {isDone && (
                <>
                  {" "}
                  ·{" "}
                  <button
                    type="button"
                    className="cursor-pointer underline"
                    aria-expanded={isProved(plan)}
                    onClick={() => setProved(isProved(plan) ? null : plan)}
                  >
                    proof
                  </button>
                </>
              )}
            </span>
          ))}
        </td>
        <td>
          {isDone ? <span className="text-verdigris">✓ delivered</span> : run.state}
          {run.stale && <span className="text-look"> ◆ stale: a set has changed since</span>}
        </td>
        <td>
          {isDone && (
            <a className="button" href={`/api/deliveries/${run.id}/zip`} download>
              Zip
            </a>
          )}
        </td>
      </tr>
      {isDone && proved && (
        <tr>
          <td colSpan={4} className="border-0">
            <Proof deliveryId={run.id} plan={proved} benchAddress={benchOf(proved)} />
          </td>
        </tr>
      )}
    </>
  );
}
