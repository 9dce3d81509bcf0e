import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { api, type Board, settled, type TextureSet } from "../../api/client";
import { usePlans, useSets, useTargets } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { HoleBoard, type HoleAt } from "./HoleBoard";
import { HoleDetail } from "./HoleDetail";

/** Which master feeds which channel of which file, drawn from the target's own table. Read only: targets are not edited yet. */
export function Routing({ project }: { project: string }) {
  const { setId } = useParams();
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const { data: sets = [] } = useSets(project);
  const targets = useTargets();
  const key = search.get("target") ?? targets.data?.[0]?.key;
  const board = useQuery({
    queryKey: ["board", key],
    queryFn: () => settled(api.GET("/api/targets/{key}/board", { params: { path: { key: key! } } })),
    enabled: key !== undefined,
    staleTime: Infinity,
  });
  const set = sets.find((s) => s.id === setId) ?? sets[0];
  if (board.error || targets.error) return <main className="p-4"><Problem error={board.error ?? targets.error} /></main>;
  if (!board.data) return <main className="p-4 text-ink2">Drawing the board…</main>;
  const choices = (
    <span className="ml-auto flex gap-2">
      <Choice label="Target" className="w-60" options={(targets.data ?? []).map((t) => [t.key, t.title] as const)} value={board.data.key} onChange={(target) => setSearch({ target })} />
      {set && <Choice label="Set" options={sets.map((s) => [s.id, s.name] as const)} value={set.id} onChange={(id) => navigate(`/p/${project}/routing/${id}?target=${board.data.key}`)} />}
    </span>
  );
  return <OneTarget key={board.data.key} project={project} board={board.data} set={set} choices={choices} />;
}

type OneTargetProps = { project: string; board: Board; set: TextureSet | undefined; choices: React.ReactNode };

/** The board and, beside it, the hole in question. */
function OneTarget({ project, board, set, choices }: OneTargetProps) {
  const [at, setAt] = useState<HoleAt>({ role: board.files[0].role, letter: board.files[0].holes[0].letter });
  const plans = usePlans(project, set ? [set.id] : [], [board.key], String(set?.head));
  const plan = plans.data?.[0];
  return (
    <main className="grid grid-cols-[minmax(0,1fr)_316px]">
      <section className="overflow-auto px-[18px] py-3.5">
        <div className="mb-1 flex items-center gap-3"><h1>{board.title}</h1>{choices}</div>
        <p className="mb-3 max-w-[70ch] text-ink2">{board.notes}</p>
        <HoleBoard board={board} set={set} plan={plan} at={at} onGo={setAt} />
      </section>
      <HoleDetail board={board} set={set} plan={plan} at={at} />
    </main>
  );
}
