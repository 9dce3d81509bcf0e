import { type PointerEvent, useEffect, useRef, useState } from "react";
import { useKey } from "../../parts/useKey";
import { LitScene, type Side } from "../../view3d/stage";
import type { StageProps } from "./Viewer";
import { useView } from "./view";

/** The set on a test body: one or two materials under one camera and one light. */
export default function LitStage({ first, second, isSwapped, size, label, onPoint, keeper }: StageProps) {
  const { isClay, situation, lamp, tiles, isDisplaced, displacement, exposure, divide, gain, pictures, other, mesh, holes, threshold, backdrop, hasGround, ground, balls, set } = useView();
  const chosen = useView((view) => view.body);
  const body = chosen === "own" ? (mesh ?? "ball") : chosen;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [scene, setScene] = useState<LitScene | null>(null);
  const [problem, setProblem] = useState<string | null>(null);

  useEffect(() => {
    try {
      const made = new LitScene(canvas.current!, useView.getState().place, () => canvas.current?.setAttribute("data-drawn", String(performance.now())), (place) => set({ place }));
      setScene(made);
      keeper.current = () => made.picture();
      return () => { keeper.current = null; made.dispose(); };
    } catch {
      setProblem("This browser gives no WebGL 2, which the lit view needs. Switch it on, or use Flat.");
    }
  }, [keeper, set]);
  useEffect(() => scene?.resize(size.width, size.height), [scene, size]);
  useEffect(() => {
    if (!scene || !first) return;
    const { facts } = first.recipe;
    scene.arrange({
      body, situation, lamp, tiles, exposure, backdrop, balls, displacement: isDisplaced ? displacement : 0, ground: hasGround ? ground : null,
      rise: facts.rise!, edges: facts.edges as { x: string; y: string },
    });
    const asIs = { hasMaps: true, isClay, isMisread: false, holes, threshold };
    const otherWear = { ...asIs, hasMaps: other.lit !== "bare", isClay: isClay && other.lit !== "bare", isMisread: other.lit === "green" };
    const sides: Side[] = [{ packed: first, wear: asIs }, ...(second ? [{ packed: second, wear: otherWear }] : [])];
    canvas.current!.dataset.second = second ? (second.target ?? "own") : ""; // whose reading stands beside, for whoever looks from outside
    const way = pictures === "beside" || pictures === "difference" ? pictures : "divide";
    scene.dress(isSwapped && second ? sides.slice(1) : pictures === "blink" ? sides.slice(0, 1) : sides, { way, divide: pictures === "divide" ? divide : 1, gain });
  }, [scene, first, second, isSwapped, isClay, body, situation, lamp, tiles, isDisplaced, displacement, exposure, divide, gain, pictures, other.lit, holes, threshold, backdrop, hasGround, ground, balls]);

  const isReset = useView((view) => view.place === null);
  useEffect(() => { if (isReset) scene?.zoom(null); }, [scene, isReset]);

  useKey((key) => {
    const factor = { "+": 1.25, "=": 1.25, "-": 0.8 }[key];
    if (key === "0") { set({ place: null }); scene?.zoom(null); }
    else if (factor) scene?.zoom(factor);
  });
  const handleMove = (event: PointerEvent) => {
    if (event.buttons) return onPoint(null);
    const box = canvas.current!.getBoundingClientRect();
    onPoint(scene?.texelAt((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height) ?? null);
  };
  if (problem) return <p className="absolute inset-0 grid place-items-center p-8 text-on-tag">{problem}</p>;
  return <canvas ref={canvas} role="img" aria-label={label} className={`absolute inset-0 size-full touch-none ${backdrop === "checker" ? "checker" : ""}`} onPointerMove={handleMove} onPointerLeave={() => onPoint(null)} onDoubleClick={() => { set({ place: null }); scene?.zoom(null); }} />;
}
