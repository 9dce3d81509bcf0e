import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Delivery as Run, type Plan, settled } from "../api/client";
import { useSets } from "./queries";

/** Sets × targets: the exact list before, progress while, the report after, in one table. */
export function Delivery({ project }: { project: string }) {
  const { data: sets = [] } = useSets(project);
  const targets = useQuery({ queryKey: ["targets"], queryFn: () => settled(api.GET("/api/targets")), staleTime: Infinity });
  const [chosenSets, setSets] = useState<string[]>([]);
  const [chosenTargets, setTargets] = useState<string[]>([]);
  const [runId, setRunId] = useState<string | null>(null);
  const path = { params: { path: { project } } };
  const body = { sets: chosenSets, targets: chosenTargets };
  const heads = sets.map((s) => s.head).join();
  const plans = useQuery({
    queryKey: ["plans", project, body, heads],
    queryFn: () => settled(api.POST("/api/projects/{project}/plans", { ...path, body })),
    enabled: chosenSets.length > 0 && chosenTargets.length > 0,
  });
  const run = useQuery({
    queryKey: ["delivery", runId],
    queryFn: () => settled(api.GET("/api/deliveries/{delivery_id}", { params: { path: { delivery_id: runId! } } })),
    enabled: runId !== null,
    refetchInterval: (query) => (isGoing(query.state.data) ? 200 : false),
  });
  const start = useMutation({ mutationFn: () => settled(api.POST("/api/projects/{project}/deliveries", { ...path, body })), onSuccess: (made) => setRunId(made.id) });
  const stop = useMutation({ mutationFn: () => settled(api.POST("/api/deliveries/{delivery_id}/cancel", { params: { path: { delivery_id: runId! } } })) });
  const toggle = (list: string[], key: string) => (list.includes(key) ? list.filter((k) => k !== key) : [...list, key]);
  const choose = (change: () => void) => { change(); setRunId(null); };
  const shown = plans.data ?? [];
  const isStopped = (p: Plan) => p.findings.some((f) => f.grade === "stop");
  const files = shown.filter((p) => !isStopped(p)).flatMap((p) => p.files.filter((f) => f.left_out === null));
  const problem = plans.error ?? start.error ?? run.error;
  return (
    <main className="delivery">
      <aside>
        <h2>Sets</h2>
        {sets.map((s) => <label key={s.id}><input type="checkbox" checked={chosenSets.includes(s.id)} onChange={() => choose(() => setSets(toggle(chosenSets, s.id)))} />{s.name}</label>)}
        <h2>Targets</h2>
        {targets.data?.map((t) => <label key={t.key}><input type="checkbox" checked={chosenTargets.includes(t.key)} onChange={() => choose(() => setTargets(toggle(chosenTargets, t.key)))} />{t.title}</label>)}
      </aside>
      <section>
        <h1>{shown.length ? `${files.length} files` : "Choose sets and targets"}</h1>
        {!shown.length && <p className="muted">The exact list of files stands here before anything is written.</p>}
        {problem && <p role="alert" className="stop">{problem.message}</p>}
        {shown.length > 0 && <p style={{ display: "flex", gap: 10, alignItems: "center", marginBottom: 10 }}>
          {isGoing(run.data) ? <button onClick={() => stop.mutate()}>Stop</button> : <button className="primary" disabled={shown.every(isStopped)} onClick={() => start.mutate()}>Deliver</button>}
          {run.data?.state === "done" && <a className="button" href={`/api/deliveries/${run.data.id}/zip`} download>Download zip</a>}
          {run.data && <span role="status">{said(run.data)}</span>}
        </p>}
        {isGoing(run.data) && <progress aria-label="Progress" max={run.data!.total_units || 1} value={run.data!.done_units} />}
        {shown.map((plan) => (
          <div key={plan.set + plan.target}>
            <h2>{plan.set} → {plan.target_title}</h2>
            {plan.findings.map((f) => <p key={f.text} className={f.grade}>{f.text}</p>)}
            <table>
              <thead><tr><th>File</th><th>Channels</th><th>Size</th><th>Stored</th><th>Green</th><th>State</th></tr></thead>
              <tbody>
                {plan.files.map((f) => (
                  <tr key={f.role}>
                    <td className="mono">{f.name}</td>
                    <td>{f.kind === "document" ? f.title : channelsOf(f)}</td>
                    <td>{f.kind === "image" && `${f.width} × ${f.height}`}</td>
                    <td>{f.kind === "image" ? `${f.depth} bit ${f.color === "data" ? "data" : "color"}` : "document"}</td>
                    <td>{f.green === "down" ? "Y−" : f.green === "up" ? "Y+" : "–"}</td>
                    <td>{f.left_out ? <span className="muted">left out: {f.left_out}</span> : isStopped(plan) ? <span className="stop">stopped</span> : <span className="good">{run.data?.rows[`${plan.set}/${plan.target}/${f.name}`] ?? (isGoing(run.data) ? "waits" : "will be written")}</span>}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        ))}
      </section>
    </main>
  );
}

/** Channels in a line, neighbors that carry the same thing together: "R G B Normal". */
function channelsOf(file: Plan["files"][number]): string {
  const groups: { letters: string[]; title: string }[] = [];
  for (const { letter, title } of file.channels) {
    const last = groups.at(-1);
    if (last?.title === title) last.letters.push(letter);
    else groups.push({ letters: [letter], title });
  }
  return groups.map((g) => `${g.letters.join(" ")} ${g.title}`).join(" · ");
}

const isGoing = (run?: Run) => run?.state === "waiting" || run?.state === "running";

function said(run: Run): string {
  if (run.state === "done") return `Written and read back equal, in deliveries / ${run.folder}`;
  if (run.state === "cancelled") return "Stopped; nothing was left behind.";
  return run.problem ?? `${Math.round((100 * run.done_units) / Math.max(run.total_units, 1))} %`;
}
