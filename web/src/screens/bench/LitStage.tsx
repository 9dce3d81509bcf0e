import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { sure } from "../../parts/sure";
import { ARROWS, useKey } from "../../parts/useKey";
import { LitScene, type Side } from "../../view3d/stage";
import type { Picture } from "./pictures";
import type { StageProps } from "./stageProps";
import { useView, type View } from "./view";

const TURN = 0.15; // radians a press

/** What of the view the lit picture is drawn by. */
const litPart = (view: View) => ({
  isClay: view.isClay,
  situation: view.situation,
  lamp: view.lamp,
  tiles: view.tiles,
  isDisplaced: view.isDisplaced,
  displacement: view.displacement,
  exposure: view.exposure,
  divide: view.divide,
  gain: view.gain,
  pictures: view.pictures,
  other: view.other,
  mesh: view.mesh,
  holes: view.holes,
  threshold: view.threshold,
  backdrop: view.backdrop,
  hasGround: view.hasGround,
  ground: view.ground,
  balls: view.balls,
});

/** The set on a test body: one or two materials under one camera and one light. */
export default function LitStage({
  first,
  second,
  isSwapped,
  size,
  label,
  onPoint,
  keeper,
}: StageProps) {
  const set = useView((view) => view.set);
  const backdrop = useView((view) => view.backdrop);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { scene, problem } = useScene(canvas, keeper);
  useEffect(() => scene?.resize(size.width, size.height), [scene, size]);
  useDrawn(scene, canvas, first, second, isSwapped);

  const isReset = useView((view) => view.place === null);
  useEffect(() => {
    if (isReset) scene?.zoom(null);
  }, [scene, isReset]);

  useKey((key) => {
    const factor = { "+": 1.25, "=": 1.25, "-": 0.8 }[key];
    if (key === "0") {
      set({ place: null });
      scene?.zoom(null);
    } else if (factor) scene?.zoom(factor);
  });
  const handleArrow = (event: KeyboardEvent) => {
    const arrow = ARROWS[event.key];
    if (!arrow) return;
    event.preventDefault();
    scene?.turn(arrow[0] * TURN, -arrow[1] * TURN);
  };
  const handleMove = (event: PointerEvent) => {
    if (event.buttons) return onPoint(null);
    const box = sure(canvas.current, "the lit canvas").getBoundingClientRect();
    onPoint(
      scene?.texelAt(
        (event.clientX - box.left) / box.width,
        (event.clientY - box.top) / box.height,
      ) ?? null,
    );
  };
  if (problem)
    return <p className="absolute inset-0 grid place-items-center p-8 text-on-tag">{problem}</p>;
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={label}
      className={`absolute inset-0 size-full touch-none ${backdrop === "checker" ? "checker" : ""}`}
      tabIndex={0}
      aria-keyshortcuts="ArrowLeft ArrowRight ArrowUp ArrowDown + - 0"
      onKeyDown={handleArrow}
      onPointerMove={handleMove}
      onPointerLeave={() => onPoint(null)}
      onDoubleClick={() => {
        set({ place: null });
        scene?.zoom(null);
      }}
    />
  );
}

/** The scene on a canvas, and why there is none where the browser cannot draw it. */
function useScene(canvas: React.RefObject<HTMLCanvasElement | null>, keeper: StageProps["keeper"]) {
  const set = useView((view) => view.set);
  const [scene, setScene] = useState<LitScene | null>(null);
  const [problem, setProblem] = useState<string | null>(null);

  useEffect(() => {
    try {
      const made = new LitScene(
        sure(canvas.current, "the lit canvas"),
        useView.getState().place,
        () => canvas.current?.setAttribute("data-drawn", String(performance.now())),
        (place) => set({ place }),
      );
      setScene(made);
      keeper.current = () => made.picture();
      return () => {
        keeper.current = null;
        made.dispose();
      };
    } catch {
      setProblem(
        "This browser gives no WebGL 2, which the lit view needs. Switch it on, or use Flat.",
      );
    }
  }, [keeper, set]);
  return { scene, problem };
}

/** Draws the scene anew when anything that it shows has changed. */
function useDrawn(
  scene: LitScene | null,
  canvas: React.RefObject<HTMLCanvasElement | null>,
  first: Picture | undefined,
  second: Picture | undefined,
  isSwapped: boolean,
) {
  const {
    isClay,
    situation,
    lamp,
    tiles,
    isDisplaced,
    displacement,
    exposure,
    divide,
    gain,
    pictures,
    other,
    mesh,
    holes,
    threshold,
    backdrop,
    hasGround,
    ground,
    balls,
  } = useView(useShallow(litPart));
  const chosen = useView((view) => view.body);
  const body = chosen === "own" ? (mesh ?? "ball") : chosen;
  useEffect(() => {
    if (!scene || !first) return;
    const { facts } = first.recipe;
    scene.arrange({
      body,
      situation,
      lamp,
      tiles,
      exposure,
      backdrop,
      balls,
      displacement: isDisplaced ? displacement : 0,
      ground: hasGround ? ground : null,
      rise: facts.rise,
      edges: facts.edges as { x: string; y: string },
    });
    const asIs = { hasMaps: true, isClay, isMisread: false, holes, threshold };
    const otherWear = {
      ...asIs,
      hasMaps: other.lit !== "bare",
      isClay: isClay && other.lit !== "bare",
      isMisread: other.lit === "green",
    };
    const sides: Side[] = [
      { packed: first, wear: asIs },
      ...(second ? [{ packed: second, wear: otherWear }] : []),
    ];
    sure(canvas.current, "the lit canvas").dataset.second = second ? (second.target ?? "own") : ""; // whose reading stands beside, for whoever looks from outside
    const way = pictures === "beside" || pictures === "difference" ? pictures : "divide";
    const shown = pictures === "blink" ? sides.slice(0, 1) : sides;
    scene.dress(isSwapped && second ? sides.slice(1) : shown, {
      way,
      divide: pictures === "divide" ? divide : 1,
      gain,
    });
  }, [
    scene,
    first,
    second,
    isSwapped,
    isClay,
    body,
    situation,
    lamp,
    tiles,
    isDisplaced,
    displacement,
    exposure,
    divide,
    gain,
    pictures,
    other.lit,
    holes,
    threshold,
    backdrop,
    hasGround,
    ground,
    balls,
  ]);
}
