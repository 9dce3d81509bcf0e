import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, settled, type TextureSet } from "../../api/client";
import { useAssay, useSets } from "../../api/queries";
import { GRADE_ORDER, GradeCount, Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";
import { Empty } from "./Empty";
import { Removed } from "./Removed";

/**
 * The project's sets as swatch cards: the material itself, flat and lit, with one corner turned up.
 */
export function Tray({ project }: { project: string }) {
  const { data: sets, error } = useSets(project);
  const queries = useQueryClient();
  const [removed, setRemoved] = useState<TextureSet | null>(null);
  const onSettled = () => queries.invalidateQueries({ queryKey: ["sets", project] });
  const remove = useMutation({
    mutationFn: (set: TextureSet) =>
      settled(api.DELETE("/api/sets/{set_id}", { params: { path: { set_id: set.id } } })),
    onSuccess: (_, set) => setRemoved(set),
    onSettled,
  });
  const restore = useMutation({
    mutationFn: (set: TextureSet) =>
      settled(api.POST("/api/sets/{set_id}/restore", { params: { path: { set_id: set.id } } })),
    onSuccess: () => setRemoved(null),
    onSettled,
  });
  const undo = removed && (
    <p role="status" className="mb-2 flex items-center gap-2">
      {removed.name} was taken off the tray.{" "}
      <button type="button" className="button" onClick={() => restore.mutate(removed)}>
        Put it back
      </button>
    </p>
  );
  if (error)
    return <main className="p-4 text-stop">The sets could not be read: {error.message}</main>;
  if (!sets) return <main className="p-4 text-ink2">Laying out the sets…</main>;
  if (!sets.length)
    return (
      <main className="p-4">
        {undo}
        <Empty project={project} />
        <Removed project={project} count={0} />
      </main>
    );
  return (
    <main className="overflow-auto px-[18px] py-3.5">
      {undo}
      <Problem error={remove.error ?? restore.error} />
      <h1 className="mb-2.5">
        {sets.length} {sets.length === 1 ? "set" : "sets"}
      </h1>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(230px,1fr))] gap-x-4 gap-y-5">
        {sets.map((set) => (
          <Card
            key={set.id}
            project={project}
            set={set}
            address={`/p/${project}/bench/${set.id}`}
            onRemove={() => remove.mutate(set)}
          />
        ))}
      </div>
      <Removed project={project} count={sets.length} />
    </main>
  );
}

/** Counts of stops and checks; notes are for the assay. */
function Found({ project, set }: { project: string; set: TextureSet }) {
  const { rows } = useAssay(project, [set]);
  return GRADE_ORDER.filter((grade) => grade !== "note").map((grade) => {
    const own = rows.filter((row) => row.finding.grade === grade);
    return (
      own.length > 0 && (
        <Hint key={grade} says={own.map((row) => row.finding.text).join("\n")}>
          <span className="text-sm text-ink2">
            <GradeCount grade={grade} count={own.length} />
          </span>
        </Hint>
      )
    );
  });
}

function Card({
  project,
  set,
  address,
  onRemove,
}: {
  project: string;
  set: TextureSet;
  address: string;
  onRemove: () => void;
}) {
  return (
    <div className="group relative" data-set={set.id}>
      <Hint says="Take off the tray">
        <button
          type="button"
          className="button absolute top-2 right-2 z-10 w-[26px] justify-center px-0 opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
          aria-label={`Take ${set.name} off the tray`}
          onClick={onRemove}
        >
          ×
        </button>
      </Hint>
      <Link to={address} aria-label={set.name} className="block">
        <div className="relative aspect-square overflow-hidden rounded-[3px] bg-surround">
          <img
            alt={`${set.name}, lit`}
            src={`/api/sets/${set.id}/swatch?head=${set.head}`}
            className="size-full object-cover"
          />
          <i className="absolute right-0 bottom-0 border-[9px] border-hair border-r-paper border-b-paper" />
        </div>
        <p className="mt-1.5 flex items-baseline justify-between gap-2">
          <b className="truncate font-semibold">{set.name}</b>
          <Found project={project} set={set} />
        </p>
        <OriginMarks set={set} />
      </Link>
    </div>
  );
}

const BARS = {
  given: "bg-copper",
  derived: "bg-copper/40",
  constant: "border border-ink2",
  absent: "border border-dotted border-ink2/60",
};

/** One bar a master, by where it comes from. */
function OriginMarks({ set }: { set: TextureSet }) {
  const said = set.masters.map((m) => `${m.title}: ${m.origin}`).join("\n");
  return (
    <Hint says={said}>
      <div role="img" aria-label={said} className="mt-1 flex gap-[3px]">
        {set.masters.map((m) => (
          <i key={m.key} className={`h-[5px] w-[15px] rounded-xs ${BARS[m.origin]}`} />
        ))}
      </div>
    </Hint>
  );
}
