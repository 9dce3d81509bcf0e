import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { type EnvironmentLight, useEnvironmentLights } from "../../api/environments";
import { sure } from "../../parts/sure";
import { ARROWS, useKey } from "../../parts/useKey";
import { useStable } from "../../parts/useStable";
import type { PieceBeside } from "../../view3d/beside";
import { inTiles } from "../../view3d/inTiles";
import type { Wear } from "../../view3d/material";
import { bodyWorn, ownLight, type Situation } from "../../view3d/names";
import { houseOf } from "../../view3d/situations";
import { LitScene, type Side } from "../../view3d/stage";
import { keyOf } from "./comparing";
import { useBeside } from "./mesh/useBeside";
import { useMarkedMesh } from "./mesh/useMarkedMesh";
import type { Picture } from "./pictures";
import { Ring } from "./Ring";
import type { StageProps } from "./stageProps";
import { layoutOf } from "./tiles";
import { useLight } from "./useLight";
import { isMeant, useView, type View } from "./view";

const TURN = 0.15; // radians a press

/** What of the view the lit picture is drawn by. */
const litPart = (view: View) => ({
  isClay: view.isClay,
  turn: view.turn,
  stops: view.stops,
  blur: view.blur,
  lamp: view.lamp,
  tiles: view.tiles,
  isDisplaced: view.isDisplaced,
  displacement: view.displacement,
  exposure: view.exposure,
  divide: view.divide,
  gain: view.gain,
  pictures: view.pictures,
  other: view.other[view.look],
  chosenBody: view.body,
  mesh: view.mesh,
  setTiles: view.setTiles,
  holes: view.holes,
  threshold: view.threshold,
  backdrop: view.backdrop,
  hasGround: view.hasGround,
  ground: view.ground,
  balls: view.balls,
  hasBar: view.hasBar,
});

/** The set on a test body: one or two materials under one camera and one light. */
export default function LitStage({
  first,
  second,
  isSwapped,
  size,
  label,
  pointed,
  onPoint,
  keeper,
}: StageProps) {
  const set = useView((view) => view.set);
  const backdrop = useView((view) => view.backdrop);
  const place = useRef<HTMLDivElement>(null);
  const { scene, problem } = useScene(place, keeper);
  useEffect(() => scene?.resize(size.width, size.height), [scene, size]);
  const { situation } = useLight();
  const view = useStable({ ...useView(useShallow(litPart)), situation });
  const lights = useEnvironmentLights(
    [view.situation, keyOf(view.other, "light")].flatMap((situation) => {
      const id = situation && ownLight(situation);
      return id ? [id] : [];
    }),
  );
  const beside = useBeside();
  const drawing = useStable({ first, second, isSwapped, lights, beside });
  useEffect(() => {
    if (scene) draw(scene, view, drawing);
  }, [scene, view, drawing]);

  const marked = useMarkedMesh();
  useEffect(() => scene?.mark(marked), [scene, marked]);

  const isReset = useView((view) => view.place === null);
  useEffect(() => {
    if (isReset) scene?.zoom(null);
  }, [scene, isReset]);

  useKey((key) => {
    if (!isMeant("lit")) return;
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
    const box = sure(place.current, "the lit stage").getBoundingClientRect();
    onPoint(
      scene?.texelAt(
        (event.clientX - box.left) / box.width,
        (event.clientY - box.top) / box.height,
      ) ?? null,
    );
  };
  if (problem)
    return <p className="absolute inset-0 grid place-items-center p-8 text-on-tag">{problem}</p>;
  const at = pointed && scene?.pointOf(pointed);
  return (
    <>
      <div
        ref={place}
        // whose reading stands beside, for whoever looks from outside
        data-second={second ? (second.target ?? "own") : ""}
        role="img"
        aria-label={label}
        className={`absolute inset-0 size-full touch-none
          ${backdrop === "checker" ? "checker" : ""}`}
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
      {at && <Ring x={at.x * size.width} y={at.y * size.height} />}
    </>
  );
}

let kept: { scene: LitScene; sheet: HTMLCanvasElement } | null = null;

/**
 * The one scene of this tab: programs and caught rooms are costly to make, so it goes from place to
 * place with its canvas. Throws where the browser cannot draw it.
 */
function keptScene() {
  if (kept) return kept;
  const sheet = document.createElement("canvas");
  sheet.className = "size-full touch-none";
  const { place, set } = useView.getState();
  const scene = new LitScene(
    sheet,
    place,
    () => sheet.setAttribute("data-drawn", String(performance.now())),
    (place) => set({ place }),
  );
  kept = { scene, sheet };
  return kept;
}

/** A texel of every layer, flat and gray: what programs are made ready with. */
const PLAIN = {
  width: 1,
  height: 1,
  bytes: new ArrayBuffer(32),
  layers: ["color", "shape", "shine", "glow"],
  recipe: { facts: { width: 1, height: 1, rise: 0, edges: { x: "wrap", y: "wrap" } } },
} as unknown as Picture;

/**
 * Make ready what takes its time at first, unseen: the programs, and the room that lights the body
 * by the view as it is.
 */
export async function warmLit() {
  if (kept) return;
  const { scene, sheet } = keptScene();
  const view = useView.getState();
  scene.resize(2, 2);
  draw(
    scene,
    { ...litPart(view), mesh: null, situation: houseOf(view.situation) },
    { first: PLAIN, second: undefined, isSwapped: false, lights: {}, beside: [] },
  );
  await new Promise(requestAnimationFrame); // it has been drawn by then
  if (!sheet.isConnected) scene.undress();
}

/**
 * The scene in its place while that is on screen, and why there is none where it cannot be drawn.
 */
function useScene(place: React.RefObject<HTMLDivElement | null>, keeper: StageProps["keeper"]) {
  const [scene, setScene] = useState<LitScene | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    let leave = () => {};
    const enter = () => {
      try {
        const { scene, sheet } = keptScene();
        sheet.removeAttribute("data-drawn"); // it may have been made ready before
        sure(place.current, "the lit stage").append(sheet);
        setScene(scene);
        keeper.current = () => scene.picture();
        leave = () => {
          keeper.current = null;
          scene.undress();
          sheet.remove();
          sheet.removeAttribute("data-drawn");
        };
      } catch {
        setProblem(
          "This browser gives no WebGL 2, which the lit view needs. Switch it on, or use Flat.",
        );
      }
    };
    // the flat picture beside it is on screen before the first, slow drawing begins
    let frame = requestAnimationFrame(() => {
      frame = requestAnimationFrame(enter);
    });
    return () => {
      cancelAnimationFrame(frame);
      leave();
    };
  }, [place, keeper]);
  return { scene, problem };
}

type Drawing = Pick<StageProps, "first" | "second" | "isSwapped"> & {
  lights: Record<string, EnvironmentLight>;
  beside: PieceBeside[];
};

/** Everything that the scene shows, by the view as it is. */
function draw(
  scene: LitScene,
  view: ReturnType<typeof litPart> & { situation: Situation },
  { first, second, isSwapped, lights, beside }: Drawing,
) {
  if (!first) return;
  const { isClay, situation, isDisplaced, pictures, other, holes, threshold } = view;
  const { facts } = first.recipe;
  const body = bodyWorn(view.chosenBody, view.mesh, facts.edges);
  const layout = first.tile === "all" ? layoutOf(view.setTiles) : null;
  scene.arrange({
    body: typeof body === "object" && layout ? inTiles(body, layout) : body,
    isDisplaced: isDisplaced || other === "displacement",
    lamp: view.lamp,
    tiles: view.tiles,
    aspect: ((facts.width / facts.height) * (layout?.columns ?? 1)) / (layout?.rows ?? 1),
    across: layout?.columns ?? 1,
    exposure: view.exposure,
    backdrop: view.backdrop,
    blur: view.blur,
    surroundings: { turn: view.turn, stops: view.stops, lights },
    balls: view.balls,
    barBy: view.hasBar ? (facts.tile_size ?? null) : null,
    ground: view.hasGround ? view.ground : null,
    rise: facts.rise,
    edges: facts.edges,
  });
  const asIs = { hasMaps: true, isClay, isMisread: false, without: null, holes, threshold };
  scene.surround(typeof body === "object" ? beside : [], asIs);
  const isBare = other === "bare";
  const otherWear: Wear = {
    ...asIs,
    hasMaps: !isBare,
    isClay: isClay && !isBare,
    isMisread: other === "green",
    without: keyOf(other, "without"),
  };
  const raised = (is: boolean) => (is ? view.displacement : 0);
  const sides: Side[] = [
    { packed: first, wear: asIs, situation, displacement: raised(isDisplaced) },
    ...(second
      ? [
          {
            packed: second,
            wear: otherWear,
            situation: keyOf(other, "light") ?? situation,
            displacement: raised(isDisplaced !== (other === "displacement")),
          },
        ]
      : []),
  ];
  const shown = pictures === "blink" ? sides.slice(0, 1) : sides;
  scene.dress(isSwapped && second ? sides.slice(1) : shown, {
    way: pictures === "beside" || pictures === "difference" ? pictures : "divide",
    divide: pictures === "divide" ? view.divide : 1,
    gain: view.gain,
  });
}
