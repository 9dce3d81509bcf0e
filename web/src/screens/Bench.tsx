import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useParams } from "react-router";
import { api, type Recipe, settled, type TextureSet } from "../api/client";
import { useSets } from "./queries";

const VIEW = crypto.randomUUID();
let seq = 0;
type Field = { title?: string; description?: string; minimum?: number; maximum?: number; default?: unknown; type?: string; unit?: string; scale?: number };

/** One set: the lineage of its masters with live controls in place, and the viewer. */
export function Bench({ project }: { project: string }) {
  const { setId } = useParams();
  const sets = useSets(project);
  const set = sets.data?.find((s) => s.id === setId) ?? sets.data?.[0];
  if (sets.error) return <main className="stop">The set could not be read: {sets.error.message}</main>;
  if (!sets.data) return <main>Opening the bench…</main>;
  if (!set) return <main><h1>No set on the bench</h1>Choose one in the Tray, or drop files in Intake.</main>;
  return <Lineage key={set.id} set={set} project={project} />;
}

function Lineage({ set, project }: { set: TextureSet; project: string }) {
  const present = outline(set);
  const [chosen, setChosen] = useState(present.find((m) => m.key === "height")?.key ?? present[0].key);
  const [draft, setDraft] = useState<Recipe | null>(null);
  const queries = useQueryClient();
  const operations = useQuery({ queryKey: ["operations"], queryFn: () => settled(api.GET("/api/operations")), staleTime: Infinity });
  const kept = () => queries.invalidateQueries({ queryKey: ["sets", project] }).then(() => setDraft(null));
  const write = useMutation({
    mutationFn: (recipe: Recipe) => settled(api.PUT("/api/sets/{set_id}/recipe", { params: { path: { set_id: set.id } }, body: { expects: set.head, recipe, note: chosen } })),
    onSettled: kept,
  });
  const step = useMutation({
    mutationFn: (way: "undo" | "redo") => settled(api.POST("/api/sets/{set_id}/step", { params: { path: { set_id: set.id } }, body: { expects: set.head, step: way } })),
    onSettled: kept,
  });
  const recipe = draft ?? (set.recipe as Recipe);
  const withParam = (node: string, name: string, value: unknown): Recipe => {
    const nodes = recipe.nodes ?? {};
    return { ...recipe, nodes: { ...nodes, [node]: { ...nodes[node], params: { ...nodes[node].params, [name]: value } } } };
  };
  const depth = (key: string): number => {
    const parent = set.masters.find((m) => m.key === key)?.parent;
    return parent ? 1 + depth(parent) : 0;
  };
  const problem = write.error ?? step.error;
  return (
    <main className="bench">
      <div className="lineage">
        <div style={{ padding: "0 16px 8px", display: "flex", gap: 8, alignItems: "center" }}>
          <h1 style={{ margin: 0, flex: 1 }}>{set.name}</h1>
          <button disabled={!set.can_undo} onClick={() => step.mutate("undo")}>Undo</button>
          <button disabled={!set.can_redo} onClick={() => step.mutate("redo")}>Redo</button>
        </div>
        {problem && <p role="alert" className="stop" style={{ padding: "0 16px" }}>{problem.message}</p>}
        <Control label="Rise" plain="From the lowest to the highest point." unit="% of width" low={0.1} high={20} value={recipe.facts.rise! * 100} initial={2}
          onMove={(v) => setDraft({ ...recipe, facts: { ...recipe.facts, rise: v / 100 } })} onDone={(v) => write.mutate({ ...recipe, facts: { ...recipe.facts, rise: v / 100 } })} />
        {present.map((master) => {
          const node = master.node;
          const schema = operations.data?.find((op) => op.key === master.op)?.params as { properties?: Record<string, Field> } | undefined;
          const fields = node && chosen === master.key ? Object.entries(schema?.properties ?? {}) : [];
          return (
            <div key={master.key} style={{ paddingLeft: depth(master.key) * 18 }}>
              <button className="row" aria-pressed={chosen === master.key} onClick={() => setChosen(master.key)} title={master.plain}>
                <b>{master.title}</b>
                <span className="muted">{master.origin === "given" ? `given · ${master.source}` : master.parent ? `from ${set.masters.find((m) => m.key === master.parent)?.title}` : master.origin}</span>
              </button>
              {fields.map(([name, field]) => {
                const current = recipe.nodes?.[node!]?.params?.[name] ?? field.default;
                if (field.type === "boolean")
                  return <div key={name} className="controls"><span>{field.title}</span><input type="checkbox" aria-label={field.title} checked={Boolean(current)} onChange={(e) => write.mutate(withParam(node!, name, e.target.checked))} /></div>;
                if (typeof current !== "number" || field.maximum === undefined) return null;
                const scale = field.scale ?? 1;
                return <Control key={name} label={field.title ?? name} plain={field.description ?? ""} unit={field.unit ?? ""} low={field.minimum! * scale} high={field.maximum * scale} whole={field.type === "integer"}
                  value={current * scale} initial={(field.default as number) * scale} onMove={(v) => setDraft(withParam(node!, name, v / scale))} onDone={(v) => write.mutate(withParam(node!, name, v / scale))} />;
              })}
            </div>
          );
        })}
      </div>
      <Viewer recipe={recipe} wanted={chosen} title={set.masters.find((m) => m.key === chosen)?.title ?? chosen} />
    </main>
  );
}

/** Masters that exist, each right after what it comes from. */
function outline(set: TextureSet, parent: string | null = null): TextureSet["masters"] {
  const own = set.masters.filter((m) => m.origin !== "absent" && m.parent === parent);
  return own.flatMap((m) => [m, ...outline(set, m.key)]);
}

type ControlProps = { label: string; plain: string; unit: string; low: number; high: number; value: number; initial: number; whole?: boolean; onMove: (v: number) => void; onDone: (v: number) => void };

/** A slider with its number, unit and reset. */
function Control({ label, plain, unit, low, high, value, initial, whole, onMove, onDone }: ControlProps) {
  const read = (e: { currentTarget: HTMLInputElement }) => Number(e.currentTarget.value);
  return (
    <div className="controls" title={plain}>
      <span>{label}</span>
      <input type="range" aria-label={label} min={low} max={high} step={whole ? 1 : (high - low) / 400} value={value} onChange={(e) => onMove(read(e))} onPointerUp={(e) => onDone(read(e))} onKeyUp={(e) => e.key.startsWith("Arrow") && onDone(read(e))} />
      <span>{value.toFixed(whole ? 0 : 2)} <span className="muted">{unit}</span></span>
      <button aria-label={`Reset ${label}`} disabled={value === initial} onClick={() => onDone(initial)}>↺</button>
    </div>
  );
}

/** The picture of one master, or nothing older than the recipe without a mark. */
function Viewer({ recipe, wanted, title }: { recipe: Recipe; wanted: string; title: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [state, setState] = useState("computing");
  useEffect(() => {
    const own = ++seq;
    const stop = new AbortController();
    setState("computing");
    const show = async () => {
      const response = await fetch("/api/previews", { method: "POST", signal: stop.signal, headers: { "content-type": "application/json" }, body: JSON.stringify({ view: VIEW, seq: own, recipe, wanted, size: 1024 }) });
      if (response.status === 204) return;
      if (!response.ok) return setState((await response.json()).detail);
      const [width, height] = ["x-width", "x-height"].map((name) => Number(response.headers.get(name)));
      const pixels = new Uint8ClampedArray(await response.arrayBuffer());
      if (!canvas.current || own !== seq) return;
      canvas.current.width = width;
      canvas.current.height = height;
      canvas.current.getContext("2d")!.putImageData(new ImageData(pixels, width, height), 0, 0);
      setState("ready");
    };
    show().catch((problem: Error) => problem.name !== "AbortError" && setState(problem.message));
    return () => stop.abort();
  }, [recipe, wanted]);
  return (
    <div className="viewer" data-state={state}>
      <canvas ref={canvas} aria-label={`Picture of ${title}`} />
      <span className="tag">{title}{state === "computing" ? " · computing" : state === "ready" ? "" : ` · ${state}`}</span>
    </div>
  );
}
