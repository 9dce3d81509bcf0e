import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import {
  api,
  type DeliveryLine,
  type Sent,
  settled,
  type Target,
  type TextureSet,
} from "../../api/client";
import { usePlans, useSets, useTargets } from "../../api/queries";
import { countOf } from "../../line/counted";
import { Holes } from "../../line/Holes";
import { useInFront } from "../../line/inFront";
import { RunState } from "../../line/RunState";
import { isGoing, useRun } from "../../line/runs";
import { useUsual } from "../../line/usual";
import { Problem } from "../../parts/grades";
import { sure } from "../../parts/sure";
import { useKey } from "../../parts/useKey";
import { usePress } from "../../parts/usePress";
import { Before } from "./Before";
import { Choices } from "./Choices";
import { type Chosen, useChosen } from "./choice";
import { DeliveryHead } from "./DeliveryHead";
import { firstPlans } from "./long";
import { type Channel, PlanTable } from "./PlanTable";

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
function undelivered(sets: TextureSet[], runs: DeliveryLine[]): string[] {
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
  useInFront(chosen.sets);
  const [isFolded, setFolded] = useState(true); // of hundreds only the first are shown
  const plans = usePlans(project, heads, chosen);
  const derive = useDerive(project, sets, putAway);
  const narrow = (next: (now: Chosen) => Chosen) => {
    change(next);
    if (!isGoing(run)) putAway();
  };
  const ordered = [...targets].sort(
    (a, b) => Number(usual.includes(b.key)) - Number(usual.includes(a.key)),
  );
  const shown = plans.data ?? [];
  const listed = isFolded ? firstPlans(shown) : shown;
  const isUseful = countOf(shown).going > 0 || chosen.remove.length > 0;
  const canGo = isUseful && !isGoing(run);
  const isSoon = start.isPending || plans.isFetching;
  const press = usePress<void>(canGo, isSoon, () => {
    if (chosen.targets.join() !== usual.join()) changeUsual(chosen.targets);
    start.mutate(chosen);
  });
  useKey((key) => key === "run" && press());
  const benchOf = (plan: Pick<Sent, "set" | "target">) => {
    const set = sets.find((s) => s.name === plan.set);
    return set ? `/p/${project}/bench/${set.id}` : null;
  };
  return (
    <main className="grid grid-cols-[250px_minmax(0,1fr)]">
      <aside className="scrolled border-r border-hair px-4 py-3.5">
        <Choices
          title="Sets"
          rows={sets.map((s) => ({ key: s.id, name: s.name }))}
          chosen={chosen.sets}
          onChoice={(keys) => narrow((now) => ({ ...now, sets: keys }))}
        />
        <Choices
          title="Targets"
          rows={ordered.map((target) => ({
            key: target.key,
            name: target.title,
            note: <Holes target={target} />,
          }))}
          chosen={chosen.targets}
          onChoice={(keys) => narrow((now) => ({ ...now, targets: keys }))}
        />
      </aside>
      <section className="scrolled px-[18px] py-3.5">
        <DeliveryHead
          project={project}
          sets={sets}
          shown={shown}
          chosen={chosen}
          canGo={canGo && !isSoon}
          isBusy={isSoon}
          onDeliver={() => press()}
          onChange={narrow}
        />
        {run && (
          <div className="mb-1 flex flex-wrap items-center gap-3">
            <RunState run={run} stop={stop} />
          </div>
        )}
        <Problem error={plans.error ?? error ?? derive.error} />
        {!shown.length && !isSoon && (
          <p className="text-ink2">
            The exact list of files stands here before anything is written.
          </p>
        )}
        {listed.map((plan) => (
          <PlanTable
            key={plan.set + plan.target}
            project={project}
            isFirst={plan === shown.find(({ target }) => target === plan.target)}
            plan={plan}
            run={run}
            benchAddress={benchOf(plan)}
            chosen={chosen}
            setId={named(sets, plan.set).id}
            onChange={narrow}
            onDerive={(channel) => derive.mutate({ set: plan.set, channel })}
          />
        ))}
        {listed.length < shown.length && (
          <button type="button" className="button mt-4" onClick={() => setFolded(false)}>
            Show the files of all {shown.length}
          </button>
        )}
        <Before project={project} heads={heads} state={run?.state} benchOf={benchOf} />
      </section>
    </main>
  );
}

const named = (sets: TextureSet[], name: string): TextureSet =>
  sure(
    sets.find((set) => set.name === name),
    name,
  );

/** Gives a set an origin for a map that a channel has nothing for. */
function useDerive(project: string, sets: TextureSet[], onDone: () => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ set: name, channel }: { set: string; channel: Channel }) => {
      const set = named(sets, name);
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
    onSettled: () => queries.invalidateQueries({ queryKey: ["sets", project] }).then(onDone),
  });
}
