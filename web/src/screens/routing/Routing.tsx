import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { api, type Board, type Plan, settled, type Target, type TextureSet } from "../../api/client";
import { usePlans, useQuantities, useSets, useTargets } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { FindingLine, Problem } from "../../parts/grades";
import { Segments } from "../../parts/Segments";
import { TypedField } from "../../parts/TypedField";
import { feeding, useTargetEdit, withChannel, withMapWords, withNewFile } from "./edit";
import { FilesIn, type Given, NOTHING, usePictureOf } from "./FilesIn";
import { HandOver } from "./HandOver";
import { HoleBoard, type HoleAt, inMb } from "./HoleBoard";
import { HoleDetail } from "./HoleDetail";

/** Which master feeds which channel of which file. A shipped target is copied by its first change; the copy is then in use. */
export function Routing({ project }: { project: string }) {
  const { setId } = useParams();
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const { data: sets = [] } = useSets(project);
  const targets = useTargets();
  const rows = targets.data ?? [];
  const row = rows.find(({ target }) => target.key === search.get("target")) ?? rows.find(({ is_own }) => !is_own);
  const key = row?.target.key;
  const board = useQuery({
    queryKey: ["board", key, row?.target.version],
    queryFn: () => settled(api.GET("/api/targets/{key}/board", { params: { path: { key: key! } } })),
    enabled: key !== undefined,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const set = sets.find((s) => s.id === setId) ?? sets[0];
  if (board.error || targets.error) return <main className="p-4"><Problem error={board.error ?? targets.error} /></main>;
  if (!board.data || !row) return <main className="p-4 text-ink2">Drawing the board…</main>;
  const targetChoice = <Choice label="Target" className="w-60" options={rows.map(({ target, is_own }) => [target.key, `${is_own ? "◆ " : ""}${target.title}`] as const)} value={row.target.key} onChange={(target) => setSearch({ target })} />;
  const setChoice = set && <Choice label="Set" options={sets.map((s) => [s.id, s.name] as const)} value={set.id} onChange={(id) => navigate(`/p/${project}/routing/${id}?target=${row.target.key}`)} />;
  return <OneTarget project={project} sets={sets} board={board.data} target={row.target as Target} isOwn={row.is_own} set={set} targetChoice={targetChoice} setChoice={setChoice} onKey={(key) => setSearch(key ? { target: key } : {})} />;
}

const DOCUMENT_TITLES: Record<string, string> = { gltf: "glTF, .gltf", glb: "glTF in one file, .glb", materialx: "MaterialX, .mtlx", usd: "USD, .usda" };

type OneTargetProps = { project: string; sets: TextureSet[]; board: Board; target: Target; isOwn: boolean; set: TextureSet | undefined; targetChoice: React.ReactNode; setChoice: React.ReactNode; onKey: (key: string | null) => void };

/** The board and, beside it, the hole in question. */
function OneTarget({ project, sets, board, target, isOwn, set, targetChoice, setChoice, onKey }: OneTargetProps) {
  const [wanted, setAt] = useState<HoleAt>({ role: "", letter: "" });
  const { data: quantities = [] } = useQuantities();
  const edit = useTargetEdit(target, isOwn, onKey);
  const file = board.files.find((f) => f.role === wanted.role) ?? board.files[0];
  const at = { role: file.role, letter: file.holes.find((hole) => hole.letter === wanted.letter)?.letter ?? file.holes[0].letter };
  const [way, setWay] = useState<"out" | "in">("out");
  const [given, setGiven] = useState<Given>(NOTHING);
  const { data: offered = [] } = useQuery({
    queryKey: ["documents", target.key, target.version],
    queryFn: () => settled(api.GET("/api/targets/{key}/documents", { params: { path: { key: target.key } } })),
    placeholderData: keepPreviousData,
  });
  const pictureOf = usePictureOf(target, given);
  const plans = usePlans(project, set ? [set.id] : [], [target.key], `${set?.head} ${target.version}`);
  const plan = plans.data?.find((p) => p.target === target.key);
  const isDrawn = board.key === target.key && board.files.every((f) => target.files.some((t) => t.role === f.role && f.holes.every((hole) => hole.letter in t.channels)));
  const handleRoute = (to: HoleAt, master: string) => {
    const quantity = quantities.find((q) => q.key === master);
    setAt(to);
    if (quantity) edit.mutate((now) => withChannel(now, to.role, to.letter, feeding(quantity, to.letter)));
  };
  const handleTurn = ({ role, letter }: HoleAt) =>
    edit.mutate((now) => {
      const channel = now.files.find((f) => f.role === role)!.channels[letter as "L"]!;
      return channel.quantity ? withChannel(now, role, letter, { ...channel, invert: !channel.invert }) : now;
    });
  return (
    <main className="grid grid-cols-[minmax(0,1fr)_316px]">
      <section className="overflow-auto px-[18px] py-3.5">
        <div className="mb-1 flex items-center gap-2">
          <h1 className="min-w-0 grow">{isOwn ? <TypedField label="Title of the target" className="w-full font-semibold" value={target.title} onDone={(title) => edit.mutate((now) => ({ ...now, title }))} /> : target.title}</h1>
          {targetChoice}
          {way === "out" && setChoice}
          <Segments label="Which way" options={[["out", "Files out"], ["in", "Files in"]] as const} value={way} onChange={setWay} />
        </div>
        <Keeping target={target} isOwn={isOwn} onKey={onKey} />
        <Problem error={edit.error} />
        <p className="mb-3 max-w-[70ch] text-ink2">{board.notes}</p>
        <HoleBoard board={board} set={set} plan={way === "in" ? undefined : plan} pictureOf={way === "in" ? pictureOf : null} at={at} onGo={setAt} onRoute={handleRoute} onTurn={handleTurn} />
        <div className="mt-3 flex items-center gap-2">
          <select aria-label="Add a file" className="field w-44" value="" onChange={(e) => { const quantity = quantities.find((q) => q.key === e.target.value); if (quantity) edit.mutate((now) => withNewFile(now, quantity)); }}>
            <option value="">Add a file for …</option>
            {quantities.map((q) => <option key={q.key} value={q.key}>{q.title}</option>)}
          </select>
          <select aria-label="Add a document" className="field w-44" value="" onChange={(e) => { const document = offered.find((d) => d.kind === e.target.value); if (document) edit.mutate((now) => ({ ...now, documents: [...(now.documents ?? []), document] })); }}>
            <option value="">Add a document …</option>
            {offered.map((d) => <option key={d.kind} value={d.kind}>{DOCUMENT_TITLES[d.kind]}</option>)}
          </select>
          <select aria-label="Map words of all files" className="field w-32" value="" onChange={(e) => { const way = e.target.value; if (way) edit.mutate((now) => withMapWords(now, way as "long")); }}>
            <option value="">Map words …</option>
            <option value="long">long: basecolor</option>
            <option value="short">short: BC</option>
          </select>
          <Choice label="Where green points" options={[["up", "Normals Y+"], ["down", "Normals Y−"]] as const} value={target.green} onChange={(green) => edit.mutate((now) => ({ ...now, green }))} />
        </div>
        {(target.documents ?? []).length > 0 && (
          <ul aria-label="Documents" className="mt-2 flex flex-wrap items-center gap-2 text-sm">
            {target.documents!.map((d) => (
              <li key={d.role} className="flex items-center gap-1 rounded-full border border-hair pl-2">
                {DOCUMENT_TITLES[d.kind]}, {Object.keys(d.inputs).length} inputs wired
                <button className="cursor-pointer px-1.5 text-ink2" aria-label={`Leave out ${DOCUMENT_TITLES[d.kind]}`} onClick={() => edit.mutate((now) => ({ ...now, documents: now.documents!.filter((one) => one.role !== d.role) }))}>×</button>
              </li>
            ))}
          </ul>
        )}
        {way === "out" && plan && <Cost plan={plan} />}
        {way === "out" && <HandOver target={target} onChange={(change) => edit.mutate(change)} />}
        <div className="mt-3">{way === "out" && plan?.findings.map((finding) => <FindingLine key={finding.text} finding={finding} />)}</div>
      </section>
      {way === "in" ? <FilesIn key={target.key} project={project} target={target} given={given} onGiven={setGiven} /> : isDrawn ? <HoleDetail project={project} sets={sets} board={board} target={target} set={set} plan={plan} at={at} onChange={(change) => edit.mutate(change)} /> : <aside className="border-l border-hair p-3.5 text-ink2">Drawing…</aside>}
    </main>
  );
}

/** What the files together cost a graphics card. */
function Cost({ plan }: { plan: Plan }) {
  const written = plan.files.filter((f) => f.kind === "image" && f.left_out === null);
  const [plain, block] = [written.map((f) => f.memory_plain), written.map((f) => f.memory_block)].map((bytes) => inMb(bytes.reduce((sum, n) => sum + n, 0)));
  return <p className="mt-2 text-ink2">The {written.length} files of {plan.set} together: {plain} plain, {block} in the usual block formats, both with mips.</p>;
}

/** Whose a target is, and what can be done with it as a whole. */
function Keeping({ target, isOwn, onKey }: { target: Target; isOwn: boolean; onKey: (key: string | null) => void }) {
  const queries = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const onSettled = () => queries.invalidateQueries({ queryKey: ["targets"] });
  const copy = useMutation({ mutationFn: () => settled(api.POST("/api/targets", { body: { copy_of: target.key, title: "" } })), onSuccess: (made) => onKey(made.key), onSettled });
  const take = useMutation({ mutationFn: takeFile, onSuccess: (made) => onKey(made.key), onSettled });
  const remove = useMutation({ mutationFn: () => settled(api.DELETE("/api/targets/{key}", { params: { path: { key: target.key } } })), onSuccess: () => onKey(null), onSettled });
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-2 text-sm text-ink2">
        <span>{isOwn ? `◆ Your own, version ${target.version}, changed ${target.changed}` : "Shipped: the first change makes a copy of your own"}</span>
        <span className="ml-auto flex gap-2">
          <button className="button" onClick={() => copy.mutate()}>Copy</button>
          <a className="button" href={`/api/targets/${target.key}/file`} download>Keep as file</a>
          <input ref={file} type="file" accept=".toml" aria-label="Target from a file" className="sr-only" onChange={(e) => { const chosen = e.target.files?.[0]; if (chosen) take.mutate(chosen); e.target.value = ""; }} />
          <button className="button" onClick={() => file.current!.click()}>From a file</button>
          {isOwn && <button className="button" onClick={() => remove.mutate()}>Remove</button>}
        </span>
      </div>
      <Problem error={copy.error ?? take.error ?? remove.error} />
    </>
  );
}

async function takeFile(file: File): Promise<Target> {
  const answer = await fetch("/api/targets/import", { method: "POST", headers: { "content-type": "application/octet-stream" }, body: file });
  const body = await answer.json();
  if (!answer.ok) throw new Error(`${file.name}: ${body.detail}`);
  return body as Target;
}
