import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  memo,
  startTransition,
  useCallback,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import { Link } from "react-router";
import { type AssayRow, api, type DeliveryLine, settled, type TextureSet } from "../../api/client";
import { type DensityRow, foundOn, useAssay, useSets, useTargets } from "../../api/queries";
import { useInFront } from "../../line/inFront";
import { GRADE_ORDER, GradeCount, Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";
import { useKey } from "../../parts/useKey";
import { Empty } from "./Empty";
import { ManySets } from "./ManySets";
import { Removed } from "./Removed";
import { type Filter, filtersOf, type Known, type Sort, selected, sieved, sorted } from "./sieve";
import { TrayBar } from "./TrayBar";

/**
 * The project's sets as swatch cards: the material itself, flat and lit, with one corner turned up.
 */
export function Tray({ project }: { project: string }) {
  const { data: sets, error } = useSets(project);
  const { removed, remove, restore } = useRemoving(project);
  const undo = removed.length > 0 && (
    <p role="status" className="mb-2 flex items-center gap-2">
      {removed.length === 1 ? `${removed[0].name} was` : `${removed.length} sets were`} taken off
      the tray.{" "}
      <button type="button" className="button" onClick={() => restore.mutate(removed)}>
        Put {removed.length === 1 ? "it" : "them"} back
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
      <Cards project={project} sets={sets} onRemove={(own) => remove.mutate(own)} />
      <Removed project={project} count={sets.length} />
    </main>
  );
}

/** Sets taken off the tray last, and the ways there and back; many go and come as one. */
function useRemoving(project: string) {
  const queries = useQueryClient();
  const [removed, setRemoved] = useState<TextureSet[]>([]);
  const onSettled = () => queries.invalidateQueries({ queryKey: ["sets", project] });
  const pathOf = (set: TextureSet) => ({ params: { path: { set_id: set.id } } });
  const remove = useMutation({
    mutationFn: (sets: TextureSet[]) =>
      Promise.all(sets.map((set) => settled(api.DELETE("/api/sets/{set_id}", pathOf(set))))),
    onSuccess: (_, sets) => setRemoved(sets),
    onSettled,
  });
  const restore = useMutation({
    mutationFn: (sets: TextureSet[]) =>
      Promise.all(sets.map((set) => settled(api.POST("/api/sets/{set_id}/restore", pathOf(set))))),
    onSuccess: () => setRemoved([]),
    onSettled,
  });
  return { removed, remove, restore };
}

/** By the sets' ids: the version that was delivered last, and every target it was delivered to. */
function deliveredBy(runs: DeliveryLine[]): Pick<Known, "delivered" | "targets"> {
  const delivered = new Map<string, number>();
  const targets = new Map<string, Set<string>>();
  for (const run of runs.filter(({ state }) => state === "done")) {
    for (const [id, head] of Object.entries(run.heads)) {
      if (!delivered.has(id)) delivered.set(id, head);
      const known = targets.get(id) ?? new Set();
      targets.set(id, new Set([...known, ...run.sent.map(({ target }) => target)]));
    }
  }
  return { delivered, targets };
}

type How = { isMore: boolean; isRange: boolean };

type CardsProps = {
  project: string;
  sets: TextureSet[];
  onRemove: (sets: TextureSet[]) => void;
};

/** What of the tray is shown, what of it is selected, and what is done with that. */
function Cards({ project, sets, onRemove }: CardsProps) {
  const [sought, setSought] = useState("");
  const [filters, setFilters] = useState<Filter[]>([]);
  const [sort, setSort] = useState<Sort>("taken");
  const [chosen, setChosen] = useState<string[]>([]);
  const [last, setLast] = useState<string | null>(null);
  const { rows, each, density } = useAssay(project, sets);
  const { data: runs = [] } = useQuery({
    queryKey: ["deliveries", project],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/deliveries", { params: { path: { project } } })),
  });
  const { data: targets = [] } = useTargets();
  const known = { found: rows, ...deliveredBy(runs) };
  const titleOf = (key: string) =>
    targets.find(({ target }) => target.key === key)?.target.title ?? key;
  const shown = sorted(sieved(sets, sought, filters, known), sort, known);
  const laidOut = useLaidOut(shown.length);
  const ids = shown.map(({ id }) => id);
  const found = new Map(sets.map(({ id }, k) => [id, each[k]]));
  const own = sets.filter(({ id }) => chosen.includes(id));
  useInFront(chosen);
  const handleRemove = (gone: TextureSet[]) => {
    setChosen([]);
    onRemove(gone);
  };
  const latest = useRef({ ids, last, handleRemove });
  useLayoutEffect(() => {
    latest.current = { ids, last, handleRemove };
  });
  const handleChoose = useCallback((id: string, how: How) => {
    const { ids, last } = latest.current;
    setChosen((now) => selected(now, ids, id, last, how));
    setLast(id);
  }, []);
  const handleRemoveOne = useCallback((set: TextureSet) => latest.current.handleRemove([set]), []);
  useKey((key, event) => {
    if (key === "all") {
      event.preventDefault();
      setChosen(ids);
    } else if (key === "Escape") setChosen([]);
    else if (key === "Delete" && own.length) handleRemove(own);
  });
  return (
    <>
      <TrayBar
        count={sets.length}
        shown={shown.length}
        sought={sought}
        filters={filters}
        offered={filtersOf(sets, known, titleOf)}
        sort={sort}
        onSort={setSort}
        onSought={setSought}
        onFilters={setFilters}
      />
      {own.length > 0 && (
        <ManySets
          project={project}
          sets={own}
          all={sets}
          isEvery={own.length === shown.length}
          onAll={() => setChosen(ids)}
          onNone={() => setChosen([])}
          onRemove={() => handleRemove(own)}
        />
      )}
      <div className="grid grid-cols-[repeat(auto-fill,minmax(230px,1fr))] gap-x-4 gap-y-5">
        {shown.slice(0, laidOut).map((set) => (
          <Card
            key={set.id}
            set={set}
            found={found.get(set.id)}
            density={density}
            address={`/p/${project}/bench/${set.id}`}
            isChosen={chosen.includes(set.id)}
            onChoose={handleChoose}
            onRemove={handleRemoveOne}
          />
        ))}
      </div>
    </>
  );
}

const AT_ONCE = 24;

/** How many of the cards are drawn: a few at once, so that hundreds never hold up the hand. */
function useLaidOut(count: number): number {
  const [laid, setLaid] = useState(AT_ONCE);
  useEffect(() => {
    if (laid < count) startTransition(() => setLaid(laid + AT_ONCE));
  }, [laid, count]);
  return laid;
}

/** Counts of stops and checks; notes are for the assay. */
function Found({ set, found, density }: Pick<CardProps, "set" | "found" | "density">) {
  const rows = foundOn(set.id, found, density);
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

type CardProps = {
  set: TextureSet;
  found: AssayRow[] | undefined;
  density: DensityRow[];
  address: string;
  isChosen: boolean;
  onChoose: (id: string, how: How) => void;
  onRemove: (set: TextureSet) => void;
};

/** One set. Hundreds lie on a tray, so each is drawn anew only when it changed itself. */
const Card = memo(function Card({
  set,
  found,
  density,
  address,
  isChosen,
  onChoose,
  onRemove,
}: CardProps) {
  return (
    <div
      className={`group relative [contain-intrinsic-size:auto_270px] [content-visibility:auto]
        ${isChosen ? "outline-2 outline-offset-4 outline-copper" : ""}`}
      data-set={set.id}
    >
      <input
        type="checkbox"
        aria-label={`Select ${set.name}`}
        className="absolute top-2 left-2 z-10 size-4 opacity-0 group-hover:opacity-100
          checked:opacity-100 focus-visible:opacity-100"
        checked={isChosen}
        onChange={() => {}}
        onClick={(e) => onChoose(set.id, { isMore: e.ctrlKey || e.metaKey, isRange: e.shiftKey })}
      />
      <Hint says="Take off the tray">
        <button
          type="button"
          className="button absolute top-2 right-2 z-10 w-[26px] justify-center px-0 opacity-0
            group-hover:opacity-100 focus-visible:opacity-100"
          aria-label={`Take ${set.name} off the tray`}
          onClick={() => onRemove(set)}
        >
          ×
        </button>
      </Hint>
      <Link to={address} className="block">
        <div className="relative aspect-square overflow-hidden rounded-[3px] bg-surround">
          <img
            alt=""
            loading="lazy"
            decoding="async"
            src={`/api/sets/${set.id}/swatch?head=${set.head}`}
            className="size-full object-cover"
          />
          <i className="absolute right-0 bottom-0 border-[9px] border-hair border-r-paper border-b-paper" />
        </div>
        <p className="mt-1.5 flex items-baseline justify-between gap-2">
          <b className="truncate font-semibold">{set.name}</b>
          <Found set={set} found={found} density={density} />
        </p>
        <OriginMarks set={set} />
      </Link>
    </div>
  );
});

const BARS = {
  given: "bg-copper",
  derived: "bg-copper/40",
  constant: "border border-ink2",
  absent: "border-b border-ink2/60", // dots would take longer to draw than everything else of a card
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
