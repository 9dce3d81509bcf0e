import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import { api, type Plan, type Delivery as Run, settled } from "../../api/client";
import { usePlans, useSets, useTargets } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { FindingLine, Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";
import { sure } from "../../parts/sure";
import { Before } from "./Before";
import { type Chosen, toggled, useChosen } from "./choice";
import { Proof } from "./Proof";

const POLL_MS = 200;

/** Sets × targets: the exact list before, progress while, the report after, in one table. */
export function Delivery({ project }: { project: string }) {
  const { data: sets = [] } = useSets(project);
  const targets = useTargets();
  const [remembered, change] = useChosen(project);
  const [runId, setRunId] = useState<string | null>(null);
  const heads = sets.map((s) => s.head).join();
  const chosen: Chosen = {
    ...remembered,
    sets: remembered.sets.filter((id) => sets.some((s) => s.id === id)),
    targets: remembered.targets.filter((key) =>
      targets.data?.some(({ target }) => target.key === key),
    ),
  };
  const plans = usePlans(project, chosen.sets, chosen.targets, heads, chosen);
  const run = useQuery({
    queryKey: ["delivery", runId],
    queryFn: () =>
      settled(
        api.GET("/api/deliveries/{delivery_id}", {
          params: { path: { delivery_id: sure(runId, "the delivery") } },
        }),
      ),
    enabled: runId !== null,
    refetchInterval: (query) => (isGoing(query.state.data) ? POLL_MS : false),
  });
  const start = useMutation({
    mutationFn: () =>
      settled(
        api.POST("/api/projects/{project}/deliveries", {
          params: { path: { project } },
          body: chosen,
        }),
      ),
    onSuccess: (made) => setRunId(made.id),
  });
  const stop = useMutation({
    mutationFn: () =>
      settled(
        api.POST("/api/deliveries/{delivery_id}/cancel", {
          params: { path: { delivery_id: sure(runId, "the delivery") } },
        }),
      ),
  });
  const queries = useQueryClient();
  const derive = useMutation({
    mutationFn: ({ set: name, channel }: { set: string; channel: Channel }) => {
      const set = sure(
        sets.find((s) => s.name === name),
        name,
      );
      return settled(
        api.POST("/api/sets/{set_id}/origins", {
          params: { path: { set_id: set.id } },
          body: {
            expects: set.head,
            master: sure(channel.master, "the map"),
            origin: sure(channel.derive, "its origin"),
          },
        }),
      );
    },
    onSettled: () =>
      queries.invalidateQueries({ queryKey: ["sets", project] }).then(() => setRunId(null)),
  });
  const narrow = (next: (now: Chosen) => Chosen) => {
    change(next);
    setRunId(null);
  };
  const handleChoice = (part: "sets" | "targets", keys: string[]) =>
    narrow((now) => ({ ...now, [part]: keys }));
  const unwantedOf = (plan: Plan) => {
    const set = sets.find((s) => s.name === plan.set)?.id;
    return chosen.unwanted
      .filter((one) => one.set === set && one.target === plan.target)
      .map((one) => one.role);
  };
  const handleUnwanted = (plan: Plan, roles: string[], isWanted: boolean) => {
    const set = sure(
      sets.find((s) => s.name === plan.set),
      plan.set,
    ).id;
    narrow((now) => {
      const others = now.unwanted.filter(
        (one) => one.set !== set || one.target !== plan.target || !roles.includes(one.role),
      );
      return {
        ...now,
        unwanted: isWanted
          ? others
          : [...others, ...roles.map((role) => ({ set, target: plan.target, role }))],
      };
    });
  };
  const largest = Math.max(
    0,
    ...sets
      .filter((s) => chosen.sets.includes(s.id))
      .map((s) => Math.max(s.recipe.facts.width, s.recipe.facts.height)),
  );
  const sizes = SIZES.filter((px) => px < largest || px === chosen.size);
  const shown = plans.data ?? [];
  const benchOf = (plan: Plan) => {
    const set = sets.find((s) => s.name === plan.set);
    return set ? `/p/${project}/bench/${set.id}` : null;
  };
  const going = shown
    .filter((p) => !isStopped(p))
    .flatMap((p) => p.files.filter((f) => f.left_out === null));
  return (
    <main className="grid grid-cols-[250px_minmax(0,1fr)]">
      <aside className="overflow-auto border-r border-hair px-4 py-3.5">
        <Choices
          title="Sets"
          rows={sets.map((s) => [s.id, s.name])}
          chosen={chosen.sets}
          onChoice={(keys) => handleChoice("sets", keys)}
        />
        <Choices
          title="Targets"
          rows={(targets.data ?? []).map(({ target }) => [target.key, target.title])}
          chosen={chosen.targets}
          onChoice={(keys) => handleChoice("targets", keys)}
        />
      </aside>
      <section className="overflow-auto px-[18px] py-3.5">
        <div className="mb-2 flex min-h-[26px] items-center gap-3">
          <h1 className="whitespace-nowrap">
            {shown.length
              ? `${going.length} ${going.length === 1 ? "file" : "files"}`
              : "Choose sets and targets"}
          </h1>
          {shown.length > 0 &&
            (isGoing(run.data) ? (
              <button type="button" className="button" onClick={() => stop.mutate()}>
                Stop
              </button>
            ) : (
              <button
                type="button"
                className="button-main"
                disabled={!going.length || start.isPending}
                onClick={() => start.mutate()}
              >
                Deliver
              </button>
            ))}
          {shown.length > 0 && sizes.length > 0 && (
            <Choice
              label="Size of this delivery"
              options={[
                ["own", "Each set’s own size"],
                ...sizes.map((px) => [String(px), `At most ${px} px`] as const),
              ]}
              value={String(chosen.size ?? "own")}
              onChange={(px) =>
                narrow((now) => ({ ...now, size: px === "own" ? null : Number(px) }))
              }
            />
          )}
          {run.data?.state === "done" && (
            <a className="button" href={`/api/deliveries/${run.data.id}/zip`} download>
              Download zip
            </a>
          )}
          {run.data && (
            <span role="status" className="text-ink2">
              {saidOf(run.data)}
            </span>
          )}
        </div>
        {run.data && isGoing(run.data) && (
          <progress
            aria-label="Progress"
            className="h-1.5 w-full"
            max={run.data.total_units || 1}
            value={run.data.done_units}
          />
        )}
        <Problem error={plans.error ?? start.error ?? run.error ?? stop.error ?? derive.error} />
        {!shown.length && (
          <p className="text-ink2">
            The exact list of files stands here before anything is written.
          </p>
        )}
        {shown.map((plan) => (
          <PlanTable
            key={plan.set + plan.target}
            plan={plan}
            run={run.data}
            benchAddress={benchOf(plan)}
            unwanted={unwantedOf(plan)}
            onWanted={handleUnwanted}
            onDerive={(channel) => derive.mutate({ set: plan.set, channel })}
          />
        ))}
        <Before project={project} heads={heads} state={run.data?.state} benchOf={benchOf} />
      </section>
    </main>
  );
}

type ChoicesProps = {
  title: string;
  rows: [key: string, title: string][];
  chosen: string[];
  onChoice: (keys: string[]) => void;
};

function Choices({ title, rows, chosen, onChoice }: ChoicesProps) {
  return (
    <fieldset className="mb-4">
      <legend className="mb-1 flex w-full items-baseline gap-2 font-semibold">
        {title}
        <button
          type="button"
          className="ml-auto text-sm font-normal text-ink2 underline"
          aria-label={`All ${title.toLowerCase()}`}
          onClick={() => onChoice(rows.map(([key]) => key))}
        >
          all
        </button>
        <button
          type="button"
          className="text-sm font-normal text-ink2 underline"
          aria-label={`No ${title.toLowerCase()}`}
          onClick={() => onChoice([])}
        >
          none
        </button>
      </legend>
      {rows.map(([key, name]) => (
        <label key={key} className="flex cursor-pointer items-center gap-2 py-[3px]">
          <input
            type="checkbox"
            checked={chosen.includes(key)}
            onChange={() => onChoice(toggled(chosen, key))}
          />
          {name}
        </label>
      ))}
    </fieldset>
  );
}

type PlanTableProps = {
  plan: Plan;
  run: Run | undefined;
  benchAddress: string | null;
  unwanted: string[];
  onWanted: (plan: Plan, roles: string[], isWanted: boolean) => void;
  onDerive: (channel: Channel) => void;
};

function PlanTable({ plan, run, benchAddress, unwanted, onWanted, onDerive }: PlanTableProps) {
  const byHand = plan.files.filter((f) => !f.left_out || f.left_out === "unwanted");
  const isEvery = byHand.every((f) => !unwanted.includes(f.role));
  const [isProved, setProved] = useState(false);
  return (
    <section className="mt-4">
      <div className="mb-1 flex items-center gap-3">
        <h2>
          {plan.set} → {plan.target_title}
        </h2>
        {run?.state === "done" && !isStopped(plan) && (
          <Hint says="Read the files back as the target would, and hold them against the masters">
            <button
              type="button"
              className="button"
              aria-expanded={isProved}
              onClick={() => setProved(!isProved)}
            >
              Proof
            </button>
          </Hint>
        )}
      </div>
      {isProved && run?.state === "done" && (
        <Proof deliveryId={run.id} plan={plan} benchAddress={benchAddress} />
      )}
      {plan.findings.map((f) => (
        <FindingLine key={f.text} finding={f} />
      ))}
      <table className="w-full table-fixed border-collapse">
        <colgroup>
          <col className="w-[26px]" />
          <col className="w-[30%]" />
          <col />
          <col className="w-[104px]" />
          <col className="w-[92px]" />
          <col className="w-[52px]" />
          <col className="w-[22%]" />
        </colgroup>
        <thead>
          <tr>
            <th>
              <input
                type="checkbox"
                aria-label={`Every file of ${plan.set} for ${plan.target_title}`}
                disabled={isGoing(run)}
                checked={isEvery}
                onChange={() =>
                  onWanted(
                    plan,
                    byHand.map((f) => f.role),
                    !isEvery,
                  )
                }
              />
            </th>
            <th>File</th>
            <th>Channels</th>
            <th>Size</th>
            <th>Stored</th>
            <th>Green</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          {plan.files.map((f, k) => (
            <Fragment key={f.role + f.name}>
              {f.tile !== (plan.files[k - 1]?.tile ?? null) && <TileHead tile={f.tile} />}
              <tr>
                <td>
                  <input
                    type="checkbox"
                    aria-label={
                      f.tile === null ? `Write ${f.name}` : `Write ${f.pattern} of every tile`
                    }
                    disabled={isGoing(run) || !byHand.includes(f)}
                    checked={byHand.includes(f) && !unwanted.includes(f.role)}
                    onChange={() => onWanted(plan, [f.role], unwanted.includes(f.role))}
                  />
                </td>
                <td className="file-name break-words">
                  {f.name}
                  {f.layer && <span className="text-ink2"> · {f.layer}</span>}
                </td>
                <td>
                  {f.kind === "document" ? f.title : channelsOf(f)}
                  {!f.left_out &&
                    f.channels
                      .filter((c) => c.content === "fill")
                      .map((c) => <FillLine key={c.letter} channel={c} onDerive={onDerive} />)}
                </td>
                <td>{f.kind === "image" && `${f.width} × ${f.height}`}</td>
                <td>
                  {f.kind === "image"
                    ? `${f.depth} bit ${f.color === "data" ? "data" : "color"}`
                    : "document"}
                </td>
                <td>{f.green ? GREEN[f.green] : "–"}</td>
                <td>{stateOf(f, plan, run)}</td>
              </tr>
            </Fragment>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Where the files of the next tile begin, or those that are for all. */
function TileHead({ tile }: { tile: number | null }) {
  return (
    <tr>
      <th colSpan={7} scope="rowgroup" className="pt-2 text-left">
        {tile === null ? "For all tiles" : `Tile ${tile}`}
      </th>
    </tr>
  );
}

const GREEN = { up: "Y+", down: "Y−" };

type Channel = Plan["files"][number]["channels"][number];

/**
 * What a channel holds that the set has nothing for, and the press that derives it where that is
 * possible.
 */
function FillLine({
  channel,
  onDerive,
}: {
  channel: Channel;
  onDerive: (channel: Channel) => void;
}) {
  return (
    <p className="flex flex-wrap items-center gap-2 text-sm text-look">
      {channel.letter}: {channel.value} everywhere, {channel.why}.
      {channel.derive && (
        <button type="button" className="button text-ink" onClick={() => onDerive(channel)}>
          Derive it
        </button>
      )}
    </p>
  );
}

function stateOf(file: Plan["files"][number], plan: Plan, run: Run | undefined) {
  if (file.left_out)
    return (
      <span className="text-ink2">
        {file.left_out === "unwanted" ? file.why : `left out: ${file.why}`}
      </span>
    );
  if (isStopped(plan)) return <span className="text-stop">■ stopped</span>;
  const row = run?.rows[`${plan.set}/${plan.target}/${file.name}`];
  if (row) return <span className="text-verdigris">✓ {row}</span>;
  return isGoing(run) ? "waits" : "will be written";
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

const SIZES = [8192, 4096, 2048, 1024, 512, 256, 128, 64];

const isStopped = (plan: Plan) => plan.findings.some((f) => f.grade === "stop");
const isGoing = (run?: Run) => run?.state === "waiting" || run?.state === "running";

function saidOf(run: Run): string {
  if (run.state === "done") return `Written and read back equal, in deliveries / ${run.folder}`;
  if (run.state === "cancelled") return "Stopped; nothing was left behind.";
  return run.problem ?? `${Math.round((100 * run.done_units) / Math.max(run.total_units, 1))} %`;
}
