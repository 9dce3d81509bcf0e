import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import {
  api,
  type Plan,
  type Delivery as Run,
  settled,
  type Target,
  type TextureSet,
} from "../../api/client";
import { usePlans, useSets, useTargets } from "../../api/queries";
import { counted, countOf, sizeSaid, waitingSaid } from "../../line/counted";
import { Holes } from "../../line/Holes";
import { isGoing, saidOf, useRun } from "../../line/runs";
import { useUsual } from "../../line/usual";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { sure } from "../../parts/sure";
import { useKey } from "../../parts/useKey";
import { Before } from "./Before";
import { Choices } from "./Choices";
import { type Chosen, useChosen } from "./choice";
import { type Channel, PlanTable } from "./PlanTable";

const SIZES = [8192, 4096, 2048, 1024, 512, 256, 128, 64];

/** Sets × targets: the exact list before, progress while, the report after, in one table. */
export function Delivery({ project }: { project: string }) {
  const { data: sets } = useSets(project);
  const targets = useTargets();
  const { usual, isKnown } = useUsual(project);
  const handed = useSearchParams()[0].getAll("set");
  const before = useQuery({
    queryKey: ["deliveries", project],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/deliveries", { params: { path: { project } } })),
    placeholderData: keepPreviousData,
  });
  if (!sets || !targets.data || !isKnown || !before.data)
    return <main className="p-4 text-ink2">Looking at what changed…</main>;
  const usualOnes = usual.filter((key) => targets.data.some(({ target }) => target.key === key));
  const suggested = {
    sets: handed.length
      ? handed.filter((one) => sets.some(({ id }) => id === one))
      : undelivered(sets, before.data),
    targets: usualOnes,
  };
  return (
    <Chooser
      key={`${project} ${handed.join()}`}
      project={project}
      sets={sets}
      targets={targets.data.map(({ target }) => target)}
      usual={usualOnes}
      suggested={suggested}
    />
  );
}

/** Sets that were never delivered, or have changed since they were. */
function undelivered(sets: TextureSet[], runs: Run[]): string[] {
  const last = new Map<string, number>();
  for (const run of runs.filter(({ state }) => state === "done"))
    for (const [id, head] of Object.entries(run.heads)) if (!last.has(id)) last.set(id, head);
  return sets.filter(({ id, head }) => last.get(id) !== head).map(({ id }) => id);
}

type ChooserProps = {
  project: string;
  sets: TextureSet[];
  targets: Target[];
  usual: string[];
  suggested: Pick<Chosen, "sets" | "targets">;
};

function Chooser({ project, sets, targets, usual, suggested }: ChooserProps) {
  const [remembered, change] = useChosen(project, suggested);
  const { run, start, stop, putAway, error } = useRun(project);
  const { change: changeUsual } = useUsual(project);
  const heads = sets.map((s) => s.head).join();
  const chosen: Chosen = {
    ...remembered,
    sets: remembered.sets.filter((id) => sets.some((s) => s.id === id)),
    targets: remembered.targets.filter((key) => targets.some((target) => target.key === key)),
  };
  const plans = usePlans(project, heads, chosen);
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
    onSettled: () => queries.invalidateQueries({ queryKey: ["sets", project] }).then(putAway),
  });
  const narrow = (next: (now: Chosen) => Chosen) => {
    change(next);
    if (!isGoing(run)) putAway();
  };
  const ordered = [...targets].sort(
    (a, b) => Number(usual.includes(b.key)) - Number(usual.includes(a.key)),
  );
  const shown = plans.data ?? [];
  const count = countOf(shown);
  const canGo = !isGoing(run) && !start.isPending && !plans.isFetching;
  const isUseful = count.going > 0 || chosen.remove.length > 0;
  const handleDeliver = () => {
    if (!canGo || !isUseful) return;
    if (chosen.targets.join() !== usual.join()) changeUsual(chosen.targets);
    start.mutate(chosen);
  };
  useKey((key) => key === "run" && handleDeliver());
  const folder = shown.find((plan) => plan.folder)?.folder;
  const benchOf = (plan: Plan) => {
    const set = sets.find((s) => s.name === plan.set);
    return set ? `/p/${project}/bench/${set.id}` : null;
  };
  const idOf = (plan: Plan) =>
    sure(
      sets.find((s) => s.name === plan.set),
      plan.set,
    ).id;
  return (
    <main className="grid grid-cols-[250px_minmax(0,1fr)]">
      <aside className="overflow-auto border-r border-hair px-4 py-3.5">
        <Choices
          title="Sets"
          rows={sets.map((s) => ({ key: s.id, name: s.name }))}
          chosen={chosen.sets}
          onChoice={(keys) => narrow((now) => ({ ...now, sets: keys }))}
        />
        <Choices
          title="Targets"
          isSearched
          rows={ordered.map((target) => ({
            key: target.key,
            name: target.title,
            note: <Holes target={target} />,
          }))}
          chosen={chosen.targets}
          onChoice={(keys) => narrow((now) => ({ ...now, targets: keys }))}
        />
      </aside>
      <section className="overflow-auto px-[18px] py-3.5">
        <div className="mb-2 flex min-h-[26px] flex-wrap items-center gap-3">
          {shown.length > 0 ? (
            <button
              type="button"
              className="button-main"
              disabled={!canGo || !isUseful}
              onClick={handleDeliver}
            >
              {chosen.remove.length && !count.going
                ? `Remove ${chosen.remove.length} of our files`
                : counted(count)}
            </button>
          ) : (
            <h1 className="whitespace-nowrap">Choose sets and targets</h1>
          )}
          {isGoing(run) && (
            <button type="button" className="button" onClick={() => stop.mutate()}>
              Stop
            </button>
          )}
          {shown.length > 0 && <SizeChoice sets={sets} chosen={chosen} onChange={narrow} />}
          {(folder || chosen.into === "new") && (
            <Choice
              label="Folder"
              options={[
                [
                  "own",
                  folder ? `On in ${folder.split("/").at(-1)}` : "On in the folder of before",
                ],
                ["new", "Another folder"],
              ]}
              value={chosen.into}
              onChange={(into) => narrow((now) => ({ ...now, into, answers: [], remove: [] }))}
            />
          )}
          {run?.state === "done" && (
            <a className="button" href={`/api/deliveries/${run.id}/zip`} download>
              Download zip
            </a>
          )}
          {run && (
            <span role="status" className="text-ink2">
              {saidOf(run)}
            </span>
          )}
        </div>
        {shown.length > 0 && (
          <p className="text-ink2">
            {[
              waitingSaid(count),
              count.asks > 0 &&
                `${count.asks} ${count.asks === 1 ? "place holds a file" : "places hold files"} that somebody else changed: say what to do`,
              count.replaced > 0 && `${count.replaced} replaced in place`,
              count.same > 0 && `${count.same} left as they lie`,
            ]
              .filter(Boolean)
              .join(" · ")}
          </p>
        )}
        {run && isGoing(run) && (
          <progress
            aria-label="Progress"
            className="h-1.5 w-full"
            max={run.total_units || 1}
            value={run.done_units}
          />
        )}
        <Problem error={plans.error ?? error ?? derive.error} />
        {!shown.length && (
          <p className="text-ink2">
            The exact list of files stands here before anything is written.
          </p>
        )}
        {shown.map((plan) => (
          <PlanTable
            key={plan.set + plan.target}
            plan={plan}
            run={run}
            benchAddress={benchOf(plan)}
            chosen={chosen}
            setId={idOf(plan)}
            onChange={narrow}
            onDerive={(channel) => derive.mutate({ set: plan.set, channel })}
          />
        ))}
        <Before project={project} heads={heads} state={run?.state} benchOf={benchOf} />
      </section>
    </main>
  );
}

type SizeChoiceProps = {
  sets: TextureSet[];
  chosen: Chosen;
  onChange: (next: (now: Chosen) => Chosen) => void;
};

function SizeChoice({ sets, chosen, onChange }: SizeChoiceProps) {
  const own = sets.filter((s) => chosen.sets.includes(s.id));
  const largest = Math.max(
    0,
    ...own.map(({ recipe: { facts } }) => Math.max(facts.width, facts.height)),
  );
  const sizes = SIZES.filter((px) => px < largest || px === chosen.size);
  return (
    <Choice
      label="Size of this delivery"
      options={[
        ["own", own.length === 1 ? sizeSaid(own, null) : "Each set’s own size"],
        ...sizes.map((px) => [String(px), `At most ${px} px`] as const),
      ]}
      value={String(chosen.size ?? "own")}
      onChange={(px) => onChange((now) => ({ ...now, size: px === "own" ? null : Number(px) }))}
    />
  );
}
