import { useEffect, useMemo, useState } from "react";
import { sure } from "../../parts/sure";
import { type Camera, channelOf, type Detail, detailWanted, differenceOf } from "./flat";
import { fetchPicture, type Picture } from "./pictures";
import type { Pictures } from "./view";

const REST_MS = 150; // a view that stays so long is worth its texels
const SAID_MS = 600; // what comes sooner needs no word

/**
 * What is drawn left and right of the line: two pictures, their difference alone, or one of the
 * two.
 */
export function useShown(
  first: Picture | undefined,
  second: Picture | undefined,
  {
    pictures,
    gain,
    channel,
    isSwapped,
  }: { pictures: Pictures; gain: number; channel: string; isSwapped: boolean },
) {
  const apart = useMemo(() => {
    if (pictures !== "difference" || !first || !second) return undefined;
    const bytes = differenceOf(first, second, gain);
    return bytes ? { ...first, bytes: bytes.buffer } : undefined;
  }, [pictures, first, second, gain]);
  const one = useImage(apart ?? first, channel);
  const two = useImage(pictures === "difference" ? undefined : second, channel);
  if (isSwapped && two) return { image: two, other: null, isApart: false };
  return { image: one, other: pictures === "blink" ? null : two, isApart: apart !== undefined };
}

/** The picture at an address, once it is here. */
export function useOverlay(address: string | null): HTMLImageElement | null {
  const [image, setImage] = useState<HTMLImageElement | null>(null);
  useEffect(() => {
    setImage(null);
    if (!address) return;
    const loading = new Image();
    loading.onload = () => setImage(loading);
    loading.src = address;
    return () => {
      loading.onload = null;
    };
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
  const image = new ImageData(new Uint8ClampedArray(bytes), picture.width, picture.height);
  sure(canvas.getContext("2d"), "drawing on a canvas").putImageData(image, 0, 0);
  return canvas;
}

/** How sharp the stage is: the set's own texels once they are here, and what is to be said of them. */
export type Sharpness = { detail: Detail | null; said: string };

const SHARP: Sharpness = { detail: null, said: "" };
const MOST_PX = 8192; // of the longer side, that pictures are asked at

/**
 * The texels under the stage at the set's own size, once the view rests closer than the picture at
 * hand is sharp.
 */
export function useDetail(
  lane: string,
  picture: Picture | undefined,
  stage: { width: number; height: number },
  tiles: number,
  camera: Camera,
  channel: string,
): Sharpness {
  const [found, setFound] = useState<(Sharpness & { of: Picture }) | null>(null);
  useEffect(() => {
    if (!picture || picture.tile === "all") return setFound(null);
    const { width, height } = picture.recipe.facts;
    const longer = Math.min(Math.max(width, height), MOST_PX);
    const share = longer / Math.max(width, height);
    const own = { width: Math.round(width * share), height: Math.round(height * share) };
    const wanted = detailWanted(stage, picture, own, tiles, camera);
    if (!wanted) return setFound(null);
    const say = (said: string) =>
      setFound((now) => ({ ...(now?.of === picture ? now : SHARP), of: picture, said }));
    const saying = setTimeout(() => say(`Sharpening to ${longer} px…`), SAID_MS);
    const abort = new AbortController();
    const timer = setTimeout(async () => {
      const { of, ...region } = wanted;
      const { recipe, wanted: master, target, tile } = picture;
      const shown = { recipe, wanted: master, target, tile };
      const part = await fetchPicture(`${lane}-detail`, shown, longer, abort.signal, region).catch(
        () => null,
      );
      if (abort.signal.aborted) return;
      clearTimeout(saying);
      const coarse = `Shown at ${Math.max(picture.width, picture.height)} px of ${longer}`;
      const detail = part && { image: drawable(part, channel), ...region, of };
      setFound({ of: picture, detail, said: detail ? "" : coarse });
    }, REST_MS);
    return () => {
      clearTimeout(timer);
      clearTimeout(saying);
      abort.abort();
    };
  }, [lane, picture, stage, tiles, camera, channel]);
  return found && found.of === picture ? found : SHARP;
}
