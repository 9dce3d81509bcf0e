import { type PointerEvent, useEffect, useLayoutEffect, useMemo, useRef, useState, type WheelEvent } from "react";
import { useKey } from "../../parts/useKey";
import { type Camera, differenceOf, drawFlat, drawOver, drawPicks, FIT, panned, texelUnder, tileAt, zoomed } from "./flat";
import type { Picture } from "./pictures";
import type { StageProps } from "./Viewer";
import { useView } from "./view";

const CLICK_PX = 4; // a press that moves less is a click

/** One or two masters as pictures, tiled, zoomed to the texel, under one camera. */
export function FlatStage({ first, second, marks, picks, onPick, isSwapped, size, label, onPoint }: StageProps) {
  const { tiles, divide, pictures, gain } = useView();
  const canvas = useRef<HTMLCanvasElement>(null);
  const dragged = useRef<{ x: number; y: number } | null>(null);
  const pressed = useRef<{ x: number; y: number } | null>(null);
  const [camera, setCamera] = useState<Camera>(FIT);
  const apart = useMemo(() => {
    const bytes = pictures === "difference" && first && second ? differenceOf(first, second, gain) : null;
    return bytes ? { ...first!, bytes: bytes.buffer } : undefined;
  }, [pictures, first, second, gain]);
  const images = [useImage(apart ?? first), useImage(pictures === "difference" ? undefined : second)];
  const overlay = useOverlay(marks);
  const [image, other] = isSwapped && images[1] ? [images[1], null] : pictures === "blink" ? [images[0], null] : images;
  const isBeside = pictures === "beside" && other !== null;
  const ratio = window.devicePixelRatio;
  const whole = useMemo(() => ({ width: size.width * ratio, height: size.height * ratio }), [size, ratio]);
  const stage = useMemo(() => (isBeside ? { width: whole.width / 2, height: whole.height } : whole), [whole, isBeside]);

  useLayoutEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context || !image) return;
    context.canvas.width = whole.width;
    context.canvas.height = whole.height;
    const at = !other ? whole.width : isBeside ? stage.width : divide * whole.width;
    const frame = isBeside ? { left: stage.width, width: stage.width } : {};
    drawFlat(context, whole, [{ image, from: 0, to: at, width: stage.width }, ...(other ? [{ image: other, from: at, to: whole.width, ...frame }] : [])], tiles, camera);
    if (overlay) drawOver(context, tileAt(stage, image, tiles, camera), overlay, tiles);
    drawPicks(context, tileAt(stage, image, tiles, camera), picks, ratio);
    context.canvas.dataset.marked = String(overlay !== null);
  }, [whole, stage, image, other, isBeside, overlay, picks, ratio, tiles, divide, camera]);

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

/** A picture's bytes as something a canvas can draw. */
function useImage(picture: Picture | undefined): HTMLCanvasElement | null {
  return useMemo(() => {
    if (!picture) return null;
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [picture.width, picture.height];
    canvas.getContext("2d")!.putImageData(new ImageData(new Uint8ClampedArray(picture.bytes), picture.width, picture.height), 0, 0);
    return canvas;
  }, [picture]);
}
