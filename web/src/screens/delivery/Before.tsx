import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Delivery, type DeliveryLine, type Sent, settled } from "../../api/client";
import { CopyPath } from "../../line/CopyPath";
import { Problem } from "../../parts/grades";
import { Proof } from "./Proof";

const MOST_LINES = 12; // of one delivery; more are folded away

type BeforeProps = {
  project: string;
  heads: string;
  state: Delivery["state"] | undefined;
  benchOf: (one: Pick<Sent, "set" | "target">) => string | null;
};

/** What was delivered before, newest first, and whether a set or a target has changed since. */
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
            <th>Folder</th>
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
function Delivered({ run, benchOf }: { run: DeliveryLine; benchOf: BeforeProps["benchOf"] }) {
  const [proved, setProved] = useState<Sent | null>(null);
  const [isUnfolded, setUnfolded] = useState(run.sent.length <= MOST_LINES);
  const isDone = run.state === "done";
  return (
    <>
      <tr>
        <td>
          <span className="file-name">{run.folder}</span> ·{" "}
          <CopyPath path={run.path} of={run.folder} />
        </td>
        <td>
          {run.sent.length > MOST_LINES && (
            <button
              type="button"
              className="cursor-pointer underline"
              aria-expanded={isUnfolded}
              onClick={() => setUnfolded(!isUnfolded)}
            >
              {countSaid(run.sent)}
            </button>
          )}
          {isUnfolded &&
            run.sent.map((one) => (
              <SentLine
                key={one.set + one.target}
                one={one}
                deliveryId={isDone ? one.delivery : null}
                isProved={one === proved}
                onProve={() => setProved(one === proved ? null : one)}
              />
            ))}
        </td>
        <td>
          {isDone ? <span className="text-verdigris">✓ delivered</span> : run.state}
          {run.stale && (
            <span className="text-look"> ◆ stale: a set or a target has changed since</span>
          )}
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
            <ProofOf deliveryId={proved.delivery} one={proved} benchAddress={benchOf(proved)} />
          </td>
        </tr>
      )}
    </>
  );
}

/** "300 sets → 3 targets" */
function countSaid(sent: Sent[]): string {
  const [sets, targets] = [sent.map(({ set }) => set), sent.map(({ target }) => target)].map(
    (names) => new Set(names).size,
  );
  return `${sets} ${sets === 1 ? "set" : "sets"} → ${targets} ${targets === 1 ? "target" : "targets"}`;
}

type SentLineProps = {
  one: Sent;
  deliveryId: string | null; // null where it did not come to its end
  isProved: boolean;
  onProve: () => void;
};

function SentLine({ one, deliveryId, isProved, onProve }: SentLineProps) {
  const query = new URLSearchParams({ set: one.set, target: one.target });
  return (
    <span className="block">
      {one.set} → {one.target_title}
      {one.path && (
        <>
          {" "}
          · <span className="file-name">{one.place}</span> ·{" "}
          <CopyPath path={one.path} of={one.place ?? ""} />
        </>
      )}
      {deliveryId !== null && (
        <>
          {" "}
          ·{" "}
          <a
            className="underline"
            target="_blank"
            rel="noreferrer"
            href={`/api/deliveries/${deliveryId}/note?${query}`}
          >
            hand-over note
          </a>{" "}
          ·{" "}
          <button
            type="button"
            className="cursor-pointer underline"
            aria-expanded={isProved}
            onClick={onProve}
          >
            proof
          </button>
        </>
      )}
    </span>
  );
}

type ProofOfProps = { deliveryId: string; one: Sent; benchAddress: string | null };

/** The proof of one set for one target, once its plan is there. */
function ProofOf({ deliveryId, one, benchAddress }: ProofOfProps) {
  const { data, error } = useQuery({
    queryKey: ["delivered plan", deliveryId, one.set, one.target],
    queryFn: () =>
      settled(
        api.GET("/api/deliveries/{delivery_id}/plan", {
          params: {
            path: { delivery_id: deliveryId },
            query: { set: one.set, target: one.target },
          },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY, // what was delivered stays so
  });
  if (!data) return <Problem error={error} />;
  return <Proof deliveryId={deliveryId} plan={data} benchAddress={benchAddress} />;
}
