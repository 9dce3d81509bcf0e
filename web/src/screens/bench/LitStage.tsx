import { type PointerEvent, useEffect, useRef, useState } from "react";
import { useKey } from "../../parts/useKey";
import { LitScene, type Side } from "../../view3d/stage";
import type { StageProps } from "./Viewer";
import { useView } from "./view";

/** The set on a test body: one or two materials under one camera and one light. */
export default function LitStage({ first, second, isSwapped, size, label, onPoint }: StageProps) {
  const { isClay, body, situation, lamp, tiles, isDisplaced, exposure, divide, other } = useView();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [scene, setScene] = useState<LitScene | null>(null);
  const [problem, setProblem] = useState<string | null>(null);

  useEffect(() => {
    try {
      const made = new LitScene(canvas.current!, () => canvas.current?.setAttribute("data-drawn", String(performance.now())));
      setScene(made);
      return () => made.dispose();
    } catch {
      setProblem("This browser gives no WebGL 2, which the lit view needs. Switch it on, or use Flat.");
    }
  }, []);
  useEffect(() => scene?.resize(size.width, size.height), [scene, size]);
  useEffect(() => {
    if (!scene || !first) return;
    const { facts } = first.recipe;
    scene.arrange({ body, situation, lamp, tiles, isDisplaced, exposure, rise: facts.rise!, edges: facts.edges as { x: string; y: string } });
    const asIs = { hasMaps: true, isClay, isMisread: false };
    const otherWear = { hasMaps: other.lit !== "bare", isClay: isClay && other.lit !== "bare", isMisread: other.lit === "green" };
    const sides: Side[] = [{ packed: first, wear: asIs }, ...(second ? [{ packed: second, wear: otherWear }] : [])];
    scene.dress(isSwapped && second ? sides.slice(1) : sides, divide);
  }, [scene, first, second, isSwapped, isClay, body, situation, lamp, tiles, isDisplaced, exposure, divide, other.lit]);

  useKey((key) => {
    const factor = { "+": 1.25, "=": 1.25, "-": 0.8 }[key];
    if (key === "0") scene?.zoom(null);
    else if (factor) scene?.zoom(factor);
  });
  const handleMove = (event: PointerEvent) => {
    if (event.buttons) return onPoint(null);
    const box = canvas.current!.getBoundingClientRect();
    onPoint(scene?.texelAt((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height) ?? null);
  };
  if (problem) return <p className="absolute inset-0 grid place-items-center p-8 text-on-tag">{problem}</p>;
  return <canvas ref={canvas} role="img" aria-label={label} className="absolute inset-0 size-full touch-none" onPointerMove={handleMove} onPointerLeave={() => onPoint(null)} onDoubleClick={() => scene?.zoom(null)} />;
}
