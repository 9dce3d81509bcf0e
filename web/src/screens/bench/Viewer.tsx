import { lazy, Suspense, useEffect, useLayoutEffect, useRef, useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { useTargets } from "../../api/queries";
import { api, type Recipe, settled, type TextureSet } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { Segments } from "../../parts/Segments";
import { useKey } from "../../parts/useKey";
import { BODIES, SITUATIONS } from "../../view3d/names";
import { Divide } from "./Divide";
import { Histogram } from "./Histogram";
import { FlatStage } from "./FlatStage";
import { LightArrow } from "./LightArrow";
import { LightDome } from "./LightDome";
import { type Picture, usePicture } from "./pictures";
import { type Edit, withParam } from "./edit";
import type { Pick } from "./PicksControl";
import { Readout } from "./Readout";
import { SceneOptions } from "./SceneOptions";
import { type Other, type Pictures, useView } from "./view";

const LitStage = lazy(() => import("./LitStage"));

const FLAT_PX = { moving: 512, resting: 1024 };
const TURN_MS = 700;
const NO_PICKS: Pick[] = []; // one and the same, so that the stage is not drawn anew for it
const PICTURES: Record<"flat" | "lit", [Pictures, string][]> = {
  flat: [["one", "One picture"], ["divide", "Divide"], ["beside", "Side by side"], ["blink", "By turns"], ["difference", "Difference"]],
  lit: [["one", "One picture"], ["divide", "Divide"], ["beside", "Side by side"], ["blink", "By turns"], ["difference", "Difference"]],
};
const GAINS = [1, 2, 4, 8, 16, 32].map((n) => [String(n), `× ${n}`] as const);
const LIT_PX = { moving: 256, resting: 1024 };
const PARTS: Record<string, string[]> = { base_color: ["red", "green", "blue"], emissive: ["red", "green", "blue"], normal: ["x", "y", "z"] };

export type Texel = { u: number; v: number };
export type StageProps = {
  picks: Pick[]; // spots that were said something of, drawn on the flat picture
  onPick: ((texel: Texel) => void) | null;
  marks: string | null; // address of a picture to lay over the first, flat
  first: Picture | undefined; second: Picture | undefined; isSwapped: boolean; size: { width: number; height: number }; label: string;
  onPoint: (texel: Texel | null) => void;
  keeper: React.RefObject<Keeper | null>; // the stage puts here how its picture is had
};
type Keeper = () => Promise<Blob | null>;

type ViewerProps = { set: TextureSet; edit: Edit; chosen: string };

/** Everything but the lineage: one picture, or two under one camera and one light. */
export function Viewer({ set, edit, chosen }: ViewerProps) {
  const { recipe, isMoving } = edit;
  const view = useView();
  const { look } = view;
  const pictures = PICTURES[look].some(([key]) => key === view.pictures) ? view.pictures : "one";
  const isDivided = pictures === "divide";
  const isTurned = useTurns(pictures === "blink");
  const other = view.other[look];
  const [isHeld, setHeld] = useState(false);
  const [isSceneOpen, setSceneOpen] = useState(false);
  const keeper = useRef<Keeper | null>(null);
  const parts = PARTS[chosen];
  const [texel, setTexel] = useState<Texel | null>(null);
  const [box, size] = useSize();
  const titleOf = (key: string) => set.masters.find((m) => m.key === key)?.title ?? key;

  const wanted = look === "lit" ? "lit" : chosen;
  const px = (look === "flat" ? FLAT_PX : LIT_PX)[isMoving ? "moving" : "resting"];
  const first = usePicture("first", recipe, wanted, px);
  const isOtherShown = pictures !== "one" || isHeld;
  const isSwapped = (isHeld && pictures === "one") || isTurned;
  const before = set.before as Recipe | null;
  const version = useVersion(set.id, other);
  const target = other.startsWith("target:") ? other.slice(7) : null;
  const otherRecipe = !isOtherShown ? null : other === "before" ? before : other.startsWith("version:") ? version : target || look === "flat" ? recipe : null;
  const second = usePicture("second", otherRecipe, other.startsWith("master:") && look === "flat" ? other.slice(7) : wanted, px, target);
  const isSecondOwn = otherRecipe !== null; // a misreading shows the same maps in another way
  const hasSecond = other === "before" ? before !== null : !other.startsWith("version:") || version !== null;

  const handleKey = (key: string, event: KeyboardEvent) => {
    if (key === "v") view.set({ look: look === "flat" ? "lit" : "flat" });
    else if (key === "c") view.set({ pictures: pictures === "one" ? "divide" : "one" });
    else if (key === "t") view.testLight();
    else if (key === " " && !(event.target as HTMLElement).closest("button, a, [role=slider]")) {
      event.preventDefault();
      setHeld(true);
    }
  };
  useKey(handleKey, (key) => key === " " && setHeld(false));

  const others: [Other, string][] =
    look === "lit"
      ? [["green", "Green misread"], ["bare", "Color alone"], ["before", "Before the last step"]]
      : [["before", "Before the last step"], ...set.masters.filter((m) => m.origin !== "absent" && m.key !== chosen).map((m): [Other, string] => [`master:${m.key}`, m.title])];
  const { data: targets = [] } = useTargets();
  const seenBy = targets.map(({ target }): [Other, string] => [`target:${target.key}`, target.title]);
  if (other.startsWith("version:")) others.push([other, "The version chosen"]);
  const otherTitle = others.find(([key]) => key === other)?.[1] ?? (target && `As seen by: ${seenBy.find(([key]) => key === other)?.[1] ?? target}`) ?? "Before the last step";
  const row = set.masters.find((m) => m.key === chosen);
  const { picking } = view;
  const isPicking = picking !== null && (picking.node === row?.node || row?.mixed?.some((step) => step.node === picking.node) === true);
  const node = isPicking ? picking.node : row?.node;
  const picks = look === "flat" && node ? ((recipe.nodes?.[node]?.params?.picks as Pick[] | undefined) ?? NO_PICKS) : NO_PICKS;
  const handlePick = look === "flat" && isPicking
    ? ({ u, v }: Texel) => (picking.value === "color" ? takeColor(picking.node, u, v) : edit.keep(withParam(recipe, picking.node, "picks", [...picks, { x: u, y: v, value: picking.value }])))
    : null;
  const takeColor = async (node: string, u: number, v: number) => {
    const { codes } = await settled(api.POST("/api/probes", { body: { recipe, size: FLAT_PX.resting, x: u, y: v } }));
    view.set({ picking: null });
    edit.keep(withParam(recipe, node, "color", codes.base_color));
  };
  const keepPicture = async () => {
    const blob = await keeper.current?.();
    if (!blob) return;
    const link = document.createElement("a");
    link.href = URL.createObjectURL(blob);
    link.download = `${set.name} ${look === "lit" ? "lit" : titleOf(chosen)}.png`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const isMarked = look === "flat" && view.marked?.set === set.id && view.marked.master === chosen && recipe === set.recipe;
  const here = look === "lit" ? "As it is" : titleOf(chosen);
  const problem = first.problem ?? second.problem;
  const isBehind = first.isBehind || second.isBehind;
  const Stage = look === "lit" ? LitStage : FlatStage;
  const { x, y } = recipe.facts.edges ?? {};
  const ends = [...(x === "mirror" ? ["across"] : []), ...(y === "mirror" ? ["down"] : [])];
  return (
    <section className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)_34px]" aria-label="Viewer">
      <div className="flex h-[39px] items-center gap-2 border-b border-hair px-3 text-sm">
        <Segments label="Look" options={[["flat", "Flat"], ["lit", "Lit"]]} value={look} onChange={(look) => view.set({ look })} />
        <Segments label="Repeat" options={[["1", "1 ×"], ["2", "2 ×"], ["3", "3 ×"]]} value={String(view.tiles) as "1" | "2" | "3"} onChange={(n) => view.set({ tiles: Number(n) as 1 | 2 | 3 })} />
        {view.tiles > 1 && ends.length > 0 && <span className="text-sm text-look" title="Where a set ends, its repeats show a seam that is not in the maps.">◆ does not repeat {ends.join(" and ")}</span>}
        {look === "flat" && <label className="flex items-center gap-1"><input type="checkbox" checked={view.hasHistogram} onChange={(e) => view.set({ hasHistogram: e.target.checked })} />Histogram</label>}
        {look === "lit" && <Choice label="Body" options={[...BODIES, ...(view.mesh ? [["own", "Own mesh"] as const] : [])]} value={view.body} onChange={(body) => view.set({ body })} />}
        {look === "lit" && <Choice label="Light" options={SITUATIONS} value={view.situation} onChange={(situation) => view.set({ situation })} />}
        {look === "lit" && <label className="flex items-center gap-1" title="Shape alone, in matte gray"><input type="checkbox" checked={view.isClay} onChange={(e) => view.set({ isClay: e.target.checked })} />Clay</label>}
        {look === "lit" && <button className="button aria-expanded:border-copper aria-expanded:bg-wash" aria-expanded={isSceneOpen} onClick={() => setSceneOpen(!isSceneOpen)}>Scene</button>}
        {look === "flat" && parts && <Choice label="Channel" options={[["all", "All channels"], ...parts.map((part, k) => [String(k) as "0", `Only ${part}`] as const)]} value={view.channel} onChange={(channel) => view.set({ channel })} />}
        <span className="ml-auto flex items-center gap-2">
          <Choice label="Pictures" options={PICTURES[look]} value={pictures} onChange={(pictures) => view.set({ pictures })} />
          {pictures === "difference" && <Choice label="Difference times" options={GAINS} value={String(view.gain)} onChange={(gain) => view.set({ gain: Number(gain) })} />}
          <Choice label="Compare with" options={others} group={{ title: "As a target sees it", options: seenBy }} value={[...others, ...seenBy].some(([key]) => key === other) ? other : others[0][0]} onChange={(key) => view.set({ other: { ...view.other, [look]: key } })} />
        </span>
      </div>
      <div ref={box} className="relative min-h-0 overflow-hidden bg-surround" data-state={problem ? "problem" : isBehind || !first.picture ? "computing" : "ready"} data-testid="viewer">
        {first.picture && (
          <Suspense fallback={<Tag side="left">Opening the light…</Tag>}>
            <Stage first={first.picture} second={isOtherShown ? (isSecondOwn ? second.picture : look === "lit" && (other === "green" || other === "bare") ? first.picture : undefined) : undefined}
              picks={picks} onPick={handlePick} marks={isMarked ? `/api/sets/${set.id}/marks?head=${set.head}&finding=${view.marked!.finding}&master=${view.marked!.master}` : null} isSwapped={isSwapped} size={size} label={look === "lit" ? `${set.name}, lit` : `Picture of ${titleOf(chosen)}`} onPoint={setTexel} keeper={keeper} />
          </Suspense>
        )}
        <Tag side="left">{isSwapped && hasSecond ? otherTitle : pictures === "difference" ? `${here} and ${otherTitle}: what differs, × ${view.gain}` : here}{problem ? ` · ${problem.message}` : isBehind ? " · computing" : isMoving ? ` · preview at ${px} px` : ""}</Tag>
        {(isDivided || pictures === "beside") && <Tag side="right">{hasSecond ? otherTitle : "Nothing before this step yet"}</Tag>}
        {isDivided && <Divide />}
        {look === "lit" && isDivided && other === "green" && view.body === "plane" && view.isClay && <LightArrow size={size} />}
        {look === "lit" && <LightDome />}
        {look === "lit" && isSceneOpen && <SceneOptions />}
        {look === "flat" && view.hasHistogram && first.picture && row && <Histogram picture={first.picture} master={row} />}
        <span className="absolute bottom-3.5 left-3 flex flex-col items-start gap-1.5">
          <button className="button" title="Keep this view as a PNG; the eye stays where it is from set to set" onClick={() => void keepPicture()}>Keep picture</button>
          <button className="button" title="Both readings of green under a lamp at a known side" onClick={view.testLight}>Light test <kbd>T</kbd></button>
        </span>
      </div>
      <Readout set={set} recipe={recipe} texel={texel} isMoving={isMoving} />
    </section>
  );
}

/** The recipe of the version that is compared with, once it is here. */
function useVersion(setId: string, other: Other): Recipe | null {
  const id = other.startsWith("version:") ? Number(other.slice(8)) : null;
  const { data } = useQuery({
    queryKey: ["version", setId, id],
    queryFn: () => settled(api.GET("/api/sets/{set_id}/versions/{version}", { params: { path: { set_id: setId, version: id! } } })),
    enabled: id !== null,
    staleTime: Infinity,
    retry: false,
  });
  return (id !== null && (data as Recipe | undefined)) || null;
}

/** True by turns while `isOn`. */
function useTurns(isOn: boolean): boolean {
  const [isTurned, setTurned] = useState(false);
  useEffect(() => {
    if (!isOn) return;
    const timer = setInterval(() => setTurned((now) => !now), TURN_MS);
    return () => { clearInterval(timer); setTurned(false); };
  }, [isOn]);
  return isTurned;
}

function Tag({ side, children }: { side: "left" | "right"; children: React.ReactNode }) {
  return <span className={`pointer-events-none absolute top-3 max-w-[70%] rounded-[3px] bg-tag px-2 py-0.5 text-on-tag ${side === "left" ? "left-3" : "right-3"}`}>{children}</span>;
}

/** A box and its size in CSS pixels, followed. */
function useSize() {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 1, height: 1 });
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setSize({ width: Math.round(entry.contentRect.width), height: Math.round(entry.contentRect.height) }));
    observer.observe(box.current!);
    return () => observer.disconnect();
  }, []);
  return [box, size] as const;
}
