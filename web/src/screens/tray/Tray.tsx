import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  useCallback,
  useDeferredValue,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { useAssay } from "../../api/assays";
import { api, type DeliveryLine, settled, type TextureSet } from "../../api/client";
import { useSets, useTargets } from "../../api/queries";
import { useInFront } from "../../line/inFront";
import { forgetTaken, justTaken } from "../../line/justTaken";
import { Problem } from "../../parts/grades";
import { useKey } from "../../parts/useKey";
import type { How } from "./Card";
import { CardGrid, type CardGridProps } from "./CardGrid";
import { Empty } from "./Empty";
import { ManySets } from "./ManySets";
import { Removed } from "./Removed";
import { filtersOf, type Known, selected, sieved, sorted } from "./sieve";
import { TrayBar } from "./TrayBar";
import { useTrayLook } from "./trayLook";

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
  if (error && !sets)
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
    <main className="scrolled px-[18px] py-3.5">
      {undo}
      <Problem error={remove.error ?? restore.error} />
      <Cards key={project} project={project} sets={sets} onRemove={(own) => remove.mutate(own)} />
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

type CardsProps = {
  project: string;
  sets: TextureSet[];
  onRemove: (sets: TextureSet[]) => void;
};

/** Everything that is known of the sets: asked here, so that it is not gone through again at every move of the hand. */
function Cards({ project, sets, onRemove }: CardsProps) {
  const { rows, each, density } = useAssay(project, sets);
  const { data: runs = [] } = useQuery({
    queryKey: ["deliveries", project],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/deliveries", { params: { path: { project } } })),
  });
  const known = useMemo(() => ({ found: rows, ...deliveredBy(runs) }), [rows, runs]);
  const found = useMemo(() => new Map(sets.map(({ id }, k) => [id, each[k]])), [sets, each]);
  return <Sieved {...{ project, sets, known, found, density, onRemove }} />;
}

type SievedProps = CardsProps & Pick<CardGridProps, "found" | "density"> & { known: Known };

/** What of the tray is shown, what of it is selected, and what is done with that. */
function Sieved({ project, sets, known, found, density, onRemove }: SievedProps) {
  const [asked, look] = useTrayLook(project, sets.length);
  const { sought, filters, sort } = asked;
  const seen = useDeferredValue(asked); // who types waits for no cards
  const [taken] = useState(justTaken);
  const [chosen, setChosen] = useState(() => [...taken]);
  useEffect(forgetTaken, []);
  const [last, setLast] = useState<string | null>(null);
  const { data: targets = [] } = useTargets();
  const titleOf = (key: string) =>
    targets.find(({ target }) => target.key === key)?.target.title ?? key;
  const shown = useMemo(
    () => sorted(sieved(sets, seen.sought, seen.filters, known), seen.sort, known),
    [sets, seen, known],
  );
  const ids = shown.map(({ id }) => id);
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
        onSort={(sort) => look({ sort })}
        onSought={(sought) => look({ sought })}
        onFilters={(filters) => look({ filters })}
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
      <CardGrid
        project={project}
        sets={shown}
        found={found}
        density={density}
        chosen={chosen}
        opensAt={ids.indexOf(taken[0])}
        onChoose={handleChoose}
        onRemove={handleRemoveOne}
      />
    </>
  );
}
