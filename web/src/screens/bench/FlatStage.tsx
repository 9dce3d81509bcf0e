import {
  type KeyboardEvent,
  type PointerEvent,
  useLayoutEffect,
  useRef,
  useState,
  type WheelEvent,
} from "react";
import { useShallow } from "zustand/react/shallow";
import { sure } from "../../parts/sure";
import { useDragged } from "../../parts/useDragged";
import { ARROWS, useKey } from "../../parts/useKey";
import { useStable } from "../../parts/useStable";
import {
  type Camera,
  type Detail,
  drawFlat,
  drawOver,
  drawPicks,
  FIT,
  panned,
  placeUnder,
  texelUnder,
  tileAt,
  zoomed,
} from "./flat";
import { useDetail, useOverlay, useShown } from "./flatPictures";
import { withSpot } from "./picks";
import { Ring } from "./Ring";
import type { StageProps, Texel } from "./stageProps";
import { isMeant, useView } from "./view";

// of the stage's width, a press of an arrow key without and with Shift
const STEP = { fine: 0.01, wide: 0.1 };
const CLICK_PX = 4; // a press that moves less is a click

/** One or two masters as pictures, tiled, zoomed to the texel, under one camera. */
export function FlatStage({
  first,
  second,
  marks,
  picks,
  onPick,
  brushing,
  isSwapped,
  size,
  label,
  pointed,
  onPoint,
  keeper,
  over,
}: StageProps) {
  const { tiles, divide, pictures, gain, channel } = useView(
    useShallow(({ tiles, divide, pictures, gain, channel }) => ({
      tiles,
      divide,
      pictures,
      gain,
      channel,
    })),
  );
  const canvas = useRef<HTMLCanvasElement>(null);
  const [camera, setCamera] = useState<Camera>(FIT);
  const [isKeyed, setKeyed] = useState(false);
  const { image, other, isApart } = useShown(first, second, { pictures, gain, channel, isSwapped });
  const overlay = useOverlay(marks);
  const isBeside = pictures === "beside" && other !== null;
  const ratio = window.devicePixelRatio;
  const whole = useStable({ width: size.width * ratio, height: size.height * ratio });
  const stage = useStable(isBeside ? { width: whole.width / 2, height: whole.height } : whole);

  const details = [
    useDetail("first", isApart ? undefined : first, stage, tiles, camera, channel),
    useDetail(
      "second",
      isBeside || pictures === "divide" ? second : undefined,
      stage,
      tiles,
      camera,
      channel,
    ),
  ];
  const [detail, otherDetail] = isSwapped ? [null, null] : details.map(({ detail }) => detail);
  const sharpness = details.find(({ said }) => said)?.said;

  useLayoutEffect(() => {
    keeper.current = () =>
      new Promise((resolve) =>
        sure(canvas.current, "the flat canvas").toBlob(resolve, "image/png"),
      );
    return () => {
      keeper.current = null;
    };
  }, [keeper]);
  const pointOf = (event: { clientX: number; clientY: number }) => {
    const box = sure(canvas.current, "the flat canvas").getBoundingClientRect();
    const x = (event.clientX - box.left) * ratio;
    return {
      x: isBeside && x > stage.width ? x - stage.width : x,
      y: (event.clientY - box.top) * ratio,
    };
  };
  const pointer = usePointer({
    pointOf,
    ratio,
    onPick,
    brushing,
    under: (point) => image && placeUnder(point, stage, image, tiles, camera),
    onPan: (by) => image && setCamera((now) => panned(now, by, stage, image, tiles)),
    onPoint,
  });
  const drawing = useStable<Drawing>({
    whole,
    stage,
    image,
    other,
    detail,
    otherDetail,
    isBeside,
    overlay,
    picks: brushing === null ? picks : withSpot(picks, pointer.along, brushing),
    ratio,
    tiles,
    divide,
    camera,
  });
  useLayoutEffect(() => draw(sure(canvas.current, "the flat canvas"), drawing), [drawing]);

  const handleWheel = (event: WheelEvent) => {
    if (image)
      setCamera((now) =>
        zoomed(now, Math.exp(-event.deltaY / 400), pointOf(event), stage, image, tiles),
      );
  };
  const handleArrow = useKeys({ camera, setCamera, stage, image, tiles, onPoint, onPick });
  return (
    <>
      <canvas
        ref={canvas}
        role="img"
        aria-label={label}
        className="absolute inset-0 size-full cursor-crosshair touch-none"
        onWheel={handleWheel}
        onPointerDown={(event) => {
          setKeyed(false);
          pointer.handleDown(event);
        }}
        onPointerMove={pointer.handleMove}
        onPointerUp={pointer.handleUp}
        onPointerCancel={pointer.handleCancel}
        onPointerLeave={() => onPoint(null)}
        onDoubleClick={() => !onPick && setCamera(FIT)}
        tabIndex={0}
        aria-keyshortcuts="ArrowLeft ArrowRight ArrowUp ArrowDown Enter + - 0"
        onKeyDown={(event) => {
          if (ARROWS[event.key]) setKeyed(true);
          handleArrow(event);
        }}
        onFocus={(event) => event.currentTarget.matches(":focus-visible") && setKeyed(true)}
        onBlur={() => setKeyed(false)}
      />
      {over && image && (
        <div className="pointer-events-none absolute inset-0" onWheel={handleWheel}>
          {over(onScreen(tileAt(stage, image, tiles, camera), ratio))}
        </div>
      )}
      {sharpness && (
        <p
          role="status"
          className="pointer-events-none absolute right-3 bottom-3.5 rounded-[3px] bg-tag px-2
            py-0.5 text-on-tag"
        >
          {sharpness}
        </p>
      )}
      {isKeyed && <Crosshair />}
      {pointed && <Pointed texel={pointed} drawing={drawing} />}
    </>
  );
}

/** A place on the stage in CSS pixels. */
const onScreen = ({ x, y, width, height }: ReturnType<typeof tileAt>, ratio: number) => ({
  x: x / ratio,
  y: y / ratio,
  width: width / ratio,
  height: height / ratio,
});

type Point = { x: number; y: number };
type Pointing = Pick<StageProps, "onPick" | "brushing" | "onPoint"> & {
  pointOf: (event: PointerEvent) => Point;
  ratio: number;
  under: (point: Point) => Texel | null;
  onPan: (by: Point) => void;
};

/**
 * What the pointer does on the stage: a click picks, dragging moves the picture or, where a spot
 * can be brushed, brushes it; with Shift it always moves the picture.
 */
function usePointer({ pointOf, ratio, under, onPan, onPick, brushing, onPoint }: Pointing) {
  const pressed = useRef<{ at: Point; last: Point; isBrush: boolean } | null>(null);
  const along = useDragged<Texel[]>([]);
  const handleDown = (event: PointerEvent) => {
    const at = pointOf(event);
    const isBrush = brushing !== null && !event.shiftKey;
    pressed.current = { at, last: at, isBrush };
    const place = under(at);
    along.set(isBrush && place ? [place] : []);
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const handleMove = (event: PointerEvent) => {
    const point = pointOf(event);
    const place = under(point);
    const from = pressed.current;
    if (from?.isBrush && place) along.set([...along.now.current, place]);
    else if (from && !from.isBrush) onPan({ x: point.x - from.last.x, y: point.y - from.last.y });
    if (from) from.last = point;
    onPoint(place && within(place));
  };
  const handleUp = (event: PointerEvent) => {
    const [from, to] = [pressed.current, pointOf(event)];
    const brushed = along.now.current;
    handleCancel();
    const isClick =
      from !== null && Math.hypot(to.x - from.at.x, to.y - from.at.y) < CLICK_PX * ratio;
    const place = under(to);
    if (from?.isBrush && brushed.length > 1 && !isClick) onPick?.(brushed);
    else if (isClick && place) onPick?.([within(place)]);
  };
  const handleCancel = () => {
    pressed.current = null;
    along.set([]);
  };
  return { handleDown, handleMove, handleUp, handleCancel, along: along.drawn };
}

const within = ({ u, v }: Texel): Texel => ({ u: u % 1, v: v % 1 });

type Keyed = Pick<StageProps, "onPoint" | "onPick"> & {
  camera: Camera;
  setCamera: React.Dispatch<React.SetStateAction<Camera>>;
  stage: { width: number; height: number };
  image: HTMLCanvasElement | null;
  tiles: number;
};

/**
 * Arrow keys move the picture under the middle of the stage, Enter picks what is there; plus, minus
 * and 0 zoom.
 */
function useKeys({ camera, setCamera, stage, image, tiles, onPoint, onPick }: Keyed) {
  const handleArrow = (event: KeyboardEvent) => {
    const arrow = ARROWS[event.key];
    if (!image || (!arrow && event.key !== "Enter")) return;
    event.preventDefault();
    const by = Math.round(stage.width * (event.shiftKey ? STEP.wide : STEP.fine));
    const moved = arrow
      ? panned(camera, { x: -arrow[0] * by, y: -arrow[1] * by }, stage, image, tiles)
      : camera;
    setCamera(moved);
    const texel = texelUnder(
      { x: stage.width / 2, y: stage.height / 2 },
      stage,
      image,
      tiles,
      moved,
    );
    onPoint(texel);
    if (!arrow && texel) onPick?.([texel]);
  };
  useKey((key) => {
    if (!isMeant("flat")) return;
    const factor = { "+": 1.25, "=": 1.25, "-": 0.8 }[key];
    if (key === "0") setCamera(FIT);
    else if (factor && image)
      setCamera((now) =>
        zoomed(now, factor, { x: stage.width / 2, y: stage.height / 2 }, stage, image, tiles),
      );
  });
  return handleArrow;
}

type Drawing = {
  whole: { width: number; height: number };
  stage: { width: number; height: number };
  image: HTMLCanvasElement | null;
  other: HTMLCanvasElement | null;
  detail: Detail | null;
  otherDetail: Detail | null;
  isBeside: boolean;
  overlay: HTMLImageElement | null;
  picks: StageProps["picks"];
  ratio: number;
  tiles: number;
  divide: number;
  camera: Camera;
};

/**
 * Everything that the stage shows, and then a mark of what there is, for whoever looks from
 * outside.
 */
function draw(canvas: HTMLCanvasElement, drawing: Drawing) {
  const { whole, stage, image, other, detail, otherDetail, isBeside, overlay } = drawing;
  const { picks, ratio, tiles, divide, camera } = drawing;
  const context = canvas.getContext("2d");
  if (!context || !image) return;
  canvas.width = whole.width;
  canvas.height = whole.height;
  const line = isBeside ? stage.width : divide * whole.width;
  const at = other ? line : whole.width;
  const frame = isBeside ? { left: stage.width, width: stage.width } : {};
  drawFlat(
    context,
    whole,
    [
      { image, detail, from: 0, to: at, width: stage.width },
      ...(other
        ? [{ image: other, detail: otherDetail, from: at, to: whole.width, ...frame }]
        : []),
    ],
    tiles,
    camera,
  );
  if (overlay) drawOver(context, tileAt(stage, image, tiles, camera), overlay, tiles);
  drawPicks(context, tileAt(stage, image, tiles, camera), picks, ratio);
  canvas.dataset.marked = String(overlay !== null);
  canvas.dataset.texels = detail ? `${detail.of.width} × ${detail.of.height}` : "";
}

/** Where the texel stands that is pointed at in the other picture. */
function Pointed({ texel, drawing }: { texel: Texel; drawing: Drawing }) {
  const { stage, image, tiles, camera, ratio } = drawing;
  if (!image) return null;
  const at = tileAt(stage, image, tiles, camera);
  return <Ring x={(at.x + texel.u * at.width) / ratio} y={(at.y + texel.v * at.height) / ratio} />;
}

/** The middle of the stage, which arrow keys move the picture under and Enter picks. */
function Crosshair() {
  return (
    <svg
      viewBox="-12 -12 24 24"
      className="pointer-events-none absolute top-1/2 left-1/2 size-6 -translate-1/2 text-copper"
      aria-hidden
    >
      <path d="M-11 0H-3M3 0H11M0-11V-3M0 3V11" stroke="currentColor" strokeWidth={1.6} />
    </svg>
  );
}
