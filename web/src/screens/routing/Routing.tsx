import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import {
  api,
  type Board,
  type Plan,
  settled,
  type Target,
  type TextureSet,
} from "../../api/client";
import { usePlans, useSets, useTargets } from "../../api/queries";
import { useQuantities } from "../../api/tables";
import { counted, countOf } from "../../line/counted";
import { TargetPicker } from "../../line/TargetPicker";
import { useDeliverSets } from "../../line/useDeliverSets";
import { useUsual } from "../../line/usual";
import { Choice } from "../../parts/Choice";
import { FindingLine, Problem } from "../../parts/grades";
import { Segments } from "../../parts/Segments";
import { sure } from "../../parts/sure";
import { TypedField } from "../../parts/TypedField";
import { useKey } from "../../parts/useKey";
import { usePress } from "../../parts/usePress";
import { Additions } from "./Additions";
import { EveryFile } from "./EveryFile";
import { feeding, useTargetEdit, withChannel, withHoleTurned } from "./edit";
import { FilesIn, type Given, NOTHING, usePictureOf } from "./FilesIn";
import { HandOver } from "./HandOver";
import { type HoleAt, HoleBoard, inMb } from "./HoleBoard";
import { HoleDetail } from "./HoleDetail";
import { Keeping } from "./Keeping";

/**
 * Which master feeds which channel of which file. A shipped target is copied by its first change;
 * the copy is then in use.
 */
export function Routing({ project }: { project: string }) {
  const { setId } = useParams();
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const { data: sets = [] } = useSets(project);
  const targets = useTargets();
  const { usual } = useUsual(project);
  const rows = targets.data ?? [];
  const row =
    rows.find(({ target }) => target.key === search.get("target")) ??
    rows.find(({ is_own }) => !is_own);
  const key = row?.target.key;
  const board = useQuery({
    queryKey: ["board", key, row?.target.version],
    queryFn: () =>
      settled(
        api.GET("/api/targets/{key}/board", {
          params: { path: { key: sure(key, "the target's key") } },
        }),
      ),
    enabled: key !== undefined,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const set = sets.find((s) => s.id === setId) ?? sets[0];
  if ((board.error && !board.data) || (targets.error && !targets.data))
    return (
      <main className="p-4">
        <Problem error={board.error ?? targets.error} />
      </main>
    );
  if (!board.data || !row) return <main className="p-4 text-ink2">Drawing the board…</main>;
  const targetChoice = (
    <TargetPicker
      label="Target"
      className="max-w-[440px] min-w-60"
      chosen={[row.target.key]}
      first={usual}
      onPick={(target) => setSearch({ target })}
    >
      {`${row.is_own ? "◆ " : ""}${row.target.title}`}
    </TargetPicker>
  );
  const setChoice = set && (
    <Choice
      label="Set"
      options={sets.map((s) => [s.id, s.name] as const)}
      value={set.id}
      onChange={(id) => navigate(`/p/${project}/routing/${id}?target=${row.target.key}`)}
    />
  );
  return (
    <OneTarget
      project={project}
      sets={sets}
      board={board.data}
      target={row.target}
      isOwn={row.is_own}
      set={set}
      targetChoice={targetChoice}
      setChoice={setChoice}
      onKey={(key) => setSearch(key ? { target: key } : {})}
    />
  );
}

type OneTargetProps = {
  project: string;
  sets: TextureSet[];
  board: Board;
  target: Target;
  isOwn: boolean;
  set: TextureSet | undefined;
  targetChoice: React.ReactNode;
  setChoice: React.ReactNode;
  onKey: (key: string | null) => void;
};

/** The board and, beside it, the hole in question. */
function OneTarget({
  project,
  sets,
  board,
  target,
  isOwn,
  set,
  targetChoice,
  setChoice,
  onKey,
}: OneTargetProps) {
  const [wanted, setAt] = useState<HoleAt>({ role: "", letter: "" });
  const quantities = useQuantities();
  const edit = useTargetEdit(target, isOwn, onKey);
  const file = board.files.find((f) => f.role === wanted.role) ?? board.files[0];
  const at = {
    role: file.role,
    letter:
      file.holes.find((hole) => hole.letter === wanted.letter)?.letter ?? file.holes[0].letter,
  };
  const [way, setWay] = useState<"out" | "in">("out");
  const [given, setGiven] = useState<Given>(NOTHING);
  const pictureOf = usePictureOf(target, given);
  const plans = usePlans(project, `${set?.head} ${target.version}`, {
    sets: set ? [set.id] : [],
    targets: [target.key],
  });
  const plan = plans.data?.find((p) => p.target === target.key);
  const isDrawn =
    board.key === target.key &&
    board.files.every((f) =>
      target.files.some(
        (t) => t.role === f.role && f.holes.every((hole) => hole.letter in t.channels),
      ),
    );
  const handleRoute = (to: HoleAt, master: string) => {
    const quantity = quantities.find((q) => q.key === master);
    setAt(to);
    if (quantity)
      edit.mutate((now) => withChannel(now, to.role, to.letter, feeding(quantity, to.letter)));
  };
  const handleTurn = (hole: HoleAt) => edit.mutate((now) => withHoleTurned(now, hole));
  const deliver = useDeliverSets(project);
  const press = usePress<void>(set !== undefined, edit.isPending || plans.isFetching, () => {
    if (set) void deliver([set.id], [target.key]);
  });
  useKey((key) => key === "run" && press());
  return (
    <main className="grid grid-cols-[minmax(0,1fr)_316px]">
      <section className="scrolled px-[18px] py-3.5">
        <div className="mb-2 flex items-center gap-2">
          <Title
            target={target}
            isOwn={isOwn}
            onTitle={(title) => edit.mutate((now) => ({ ...now, title }))}
          />
          <Segments
            label="Which way"
            options={
              [
                ["out", "Files out"],
                ["in", "Files in"],
              ] as const
            }
            value={way}
            onChange={setWay}
          />
        </div>
        <div className="mb-1 flex items-center gap-2">
          {targetChoice}
          {way === "out" && setChoice}
          {way === "out" && set && plan && (
            <button type="button" className="button-main whitespace-nowrap" onClick={() => press()}>
              {counted(countOf([plan]))}
            </button>
          )}
        </div>
        <Keeping target={target} isOwn={isOwn} onKey={onKey} />
        <Problem error={edit.error} />
        <p className="mb-3 max-w-[70ch] text-ink2">{board.notes}</p>
        {way === "out" && <EveryFile target={target} onChange={(change) => edit.mutate(change)} />}
        <HoleBoard
          board={board}
          set={set}
          plan={way === "in" ? undefined : plan}
          pictureOf={way === "in" ? pictureOf : null}
          at={at}
          onGo={setAt}
          onRoute={handleRoute}
          onTurn={handleTurn}
        />
        <Additions target={target} onChange={(change) => edit.mutate(change)} />
        {way === "out" && plan && <Cost plan={plan} />}
        {way === "out" && <HandOver target={target} onChange={(change) => edit.mutate(change)} />}
        <div className="mt-3">
          {way === "out" &&
            plan?.findings.map((finding) => <FindingLine key={finding.text} finding={finding} />)}
        </div>
      </section>
      {way === "in" && (
        <FilesIn
          key={target.key}
          project={project}
          target={target}
          given={given}
          onGiven={setGiven}
        />
      )}
      {way === "out" && isDrawn && (
        <HoleDetail
          project={project}
          sets={sets}
          board={board}
          target={target}
          set={set}
          plan={plan}
          at={at}
          onChange={(change) => edit.mutate(change)}
        />
      )}
      {way === "out" && !isDrawn && (
        <aside className="border-l border-hair p-3.5 text-ink2">Drawing…</aside>
      )}
    </main>
  );
}

/** What the files together cost a graphics card. */
function Cost({ plan }: { plan: Plan }) {
  const written = plan.files.filter((f) => f.kind === "image" && f.left_out === null);
  const [plain, block] = [
    written.map((f) => f.memory_plain),
    written.map((f) => f.memory_block),
  ].map((bytes) => inMb(bytes.reduce((sum, n) => sum + n, 0)));
  return (
    <p className="mt-2 text-ink2">
      The {written.length} files of {plan.set} together: {plain} plain, {block} in the usual block
      formats, both with mips.
    </p>
  );
}

/** What the target is called; an own one may be called otherwise. */
function Title({
  target,
  isOwn,
  onTitle,
}: {
  target: Target;
  isOwn: boolean;
  onTitle: (title: string) => void;
}) {
  return (
    <h1 className="min-w-0 grow">
      {isOwn ? (
        <TypedField
          label="Title of the target"
          className="w-full font-semibold"
          value={target.title}
          onDone={onTitle}
        />
      ) : (
        target.title
      )}
    </h1>
  );
}
