import { type PointerEvent, useEffect, useLayoutEffect, useMemo, useRef, useState, type WheelEvent } from "react";
import { useKey } from "../../parts/useKey";
import { type Camera, channelOf, type Detail, detailWanted, differenceOf, drawFlat, drawOver, drawPicks, FIT, panned, texelUnder, tileAt, zoomed } from "./flat";
import { fetchPicture, type Picture } from "./pictures";
import type { StageProps } from "./Viewer";
import { useView } from "./view";

const REST_MS = 150; // a view that stays so long is worth its texels
const CLICK_PX = 4; // a press that moves less is a click

/** One or two masters as pictures, tiled, zoomed to the texel, under one camera. */
export function FlatStage({ first, second, marks, picks, onPick, isSwapped, size, label, onPoint, keeper }: StageProps) {
  const { tiles, divide, pictures, gain, channel } = useView();
  const canvas = useRef<HTMLCanvasElement>(null);
  const dragged = useRef<{ x: number; y: number } | null>(null);
  const pressed = useRef<{ x: number; y: number } | null>(null);
  const [camera, setCamera] = useState<Camera>(FIT);
  const apart = useMemo(() => {
    const bytes = pictures === "difference" && first && second ? differenceOf(first, second, gain) : null;
    return bytes ? { ...first!, bytes: bytes.buffer } : undefined;
  }, [pictures, first, second, gain]);
  const images = [useImage(apart ?? first, channel), useImage(pictures === "difference" ? undefined : second, channel)];
  const overlay = useOverlay(marks);
  const [image, other] = isSwapped && images[1] ? [images[1], null] : pictures === "blink" ? [images[0], null] : images;
  const isBeside = pictures === "beside" && other !== null;
  const ratio = window.devicePixelRatio;
  const whole = useMemo(() => ({ width: size.width * ratio, height: size.height * ratio }), [size, ratio]);
  const stage = useMemo(() => (isBeside ? { width: whole.width / 2, height: whole.height } : whole), [whole, isBeside]);

  const details = [useDetail("first", apart ? undefined : first, stage, tiles, camera, channel), useDetail("second", isBeside || pictures === "divide" ? second : undefined, stage, tiles, camera, channel)];
  const [detail, otherDetail] = isSwapped ? [null, null] : details;

  useLayoutEffect(() => {
    keeper.current = () => new Promise((resolve) => canvas.current!.toBlob(resolve, "image/png"));
    return () => { keeper.current = null; };
  }, [keeper]);
  useLayoutEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context || !image) return;
    context.canvas.width = whole.width;
    context.canvas.height = whole.height;
    const at = !other ? whole.width : isBeside ? stage.width : divide * whole.width;
    const frame = isBeside ? { left: stage.width, width: stage.width } : {};
    drawFlat(context, whole, [{ image, detail, from: 0, to: at, width: stage.width }, ...(other ? [{ image: other, detail: otherDetail, from: at, to: whole.width, ...frame }] : [])], tiles, camera);
    if (overlay) drawOver(context, tileAt(stage, image, tiles, camera), overlay, tiles);
    drawPicks(context, tileAt(stage, image, tiles, camera), picks, ratio);
    context.canvas.dataset.marked = String(overlay !== null);
    context.canvas.dataset.texels = detail ? `${detail.of.width} × ${detail.of.height}` : "";
  }, [whole, stage, image, other, detail, otherDetail, isBeside, overlay, picks, ratio, tiles, divide, camera]);

  const pointOf = (event: { clientX: number; clientY: number }) => {
    const box = canvas.current!.getBoundingClientRect();
    const x = (event.clientX - box.left) * ratio;
    return { x: isBeside && x > stage.width ? x - stage.width : x, y: (event.clientY - box.top) * ratio };
  };
  const handleWheel = (event: WheelEvent) => {
    if (image) setCamera((now) => zoomed(now, Math.exp(-event.deltaY / 400), pointOf(event), stage, image, tiles));
  };
  const handleMove = (event: PointerEvent) => {
    if (!image) return;
    const point = pointOf(event);
    const from = dragged.current;
    if (from) {
      dragged.current = point;
      setCamera((now) => panned(now, { x: point.x - from.x, y: point.y - from.y }, stage, image, tiles));
    }
    onPoint(texelUnder(point, stage, image, tiles, camera));
  };
  const handleUp = (event: PointerEvent) => {
    const [from, to] = [pressed.current, pointOf(event)];
    dragged.current = pressed.current = null;
    const texel = image && from && Math.hypot(to.x - from.x, to.y - from.y) < CLICK_PX * ratio ? texelUnder(to, stage, image, tiles, camera) : null;
    if (texel) onPick?.(texel);
  };
  const handleDown = (event: PointerEvent) => {
    dragged.current = pressed.current = pointOf(event);
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  useKey((key) => {
    const factor = { "+": 1.25, "=": 1.25, "-": 0.8 }[key];
    if (key === "0") setCamera(FIT);
    else if (factor && image) setCamera((now) => zoomed(now, factor, { x: stage.width / 2, y: stage.height / 2 }, stage, image, tiles));
  });
  return (
    <canvas ref={canvas} role="img" aria-label={label} className="absolute inset-0 size-full cursor-crosshair touch-none"
      onWheel={handleWheel} onPointerDown={handleDown} onPointerMove={handleMove} onPointerUp={handleUp}
      onPointerLeave={() => onPoint(null)} onDoubleClick={() => !onPick && setCamera(FIT)} />
  );
}

/** The picture at an address, once it is here. */
function useOverlay(address: string | null): HTMLImageElement | null {
  const [image, setImage] = useState<HTMLImageElement | null>(null);
  useEffect(() => {
    setImage(null);
    if (!address) return;
    const loading = new Image();
    loading.onload = () => setImage(loading);
    loading.src = address;
    return () => { loading.onload = null; };
  }, [address]);
  return image;
}

/** A picture's bytes, or one channel of them, as something a canvas can draw. */
function useImage(picture: Picture | undefined, channel: string): HTMLCanvasElement | null {
  return useMemo(() => (picture ? drawable(picture, channel) : null), [picture, channel]);
}

function drawable(picture: Picture, channel: string): HTMLCanvasElement {
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [picture.width, picture.height];
  const bytes = channel === "all" ? picture.bytes : channelOf(picture, Number(channel));
  canvas.getContext("2d")!.putImageData(new ImageData(new Uint8ClampedArray(bytes), picture.width, picture.height), 0, 0);
  return canvas;
}

/** The texels under the stage at the set's own size, once the view rests closer than the picture at hand is sharp. */
function useDetail(lane: string, picture: Picture | undefined, stage: { width: number; height: number }, tiles: number, camera: Camera, channel: string): Detail | null {
  const [found, setFound] = useState<{ of: Picture; detail: Detail } | null>(null);
  useEffect(() => {
    if (!picture) return;
    const { width, height } = picture.recipe.facts;
    const wanted = detailWanted(stage, picture, { width, height }, tiles, camera);
    if (!wanted) return setFound(null);
    const abort = new AbortController();
    const timer = setTimeout(async () => {
      const { of, ...region } = wanted;
      const part = await fetchPicture(`${lane}-detail`, picture.recipe, picture.wanted, Math.max(width, height), picture.target, abort.signal, region).catch(() => null);
      if (part && !abort.signal.aborted) setFound({ of: picture, detail: { image: drawable(part, channel), ...region, of } });
    }, REST_MS);
    return () => { clearTimeout(timer); abort.abort(); };
  }, [lane, picture, stage, tiles, camera, channel]);
  return found && found.of === picture ? found.detail : null;
}
