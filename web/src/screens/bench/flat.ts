/**
 * The flat stage without React: where tiles stand, what is under the pointer, and how it is drawn.
 */

import type { Pick } from "./picks";

/**
 * `scale` is screen pixels per tile width, null to fit; `x`, `y` are the tile coordinates at the
 * stage's middle.
 */
export type Camera = { scale: number | null; x: number; y: number };
export const FIT: Camera = { scale: null, x: 0.5, y: 0.5 };

type Stage = { width: number; height: number };
type Tile = { width: number; height: number };

const MARGIN = 0.94;

/** Position and size of the first tile on the stage, in its pixels. */
export function tileAt(stage: Stage, tile: Tile, tiles: number, camera: Camera) {
  const aspect = tile.height / tile.width;
  const width = camera.scale ?? (MARGIN * Math.min(stage.width, stage.height / aspect)) / tiles;
  const height = width * aspect;
  const middle = camera.scale === null ? tiles / 2 : null;
  return {
    x: stage.width / 2 - (middle ?? camera.x) * width,
    y: stage.height / 2 - (middle ?? camera.y) * height,
    width,
    height,
  };
}

/** Share of the tile's width and height under a point of the stage, or null beside the picture. */
export function texelUnder(
  point: { x: number; y: number },
  stage: Stage,
  tile: Tile,
  tiles: number,
  camera: Camera,
): { u: number; v: number } | null {
  const place = placeUnder(point, stage, tile, tiles, camera);
  return place && { u: place.u % 1, v: place.v % 1 };
}

/** As `texelUnder`, counted on through the copies to the right and below. */
export function placeUnder(
  point: { x: number; y: number },
  stage: Stage,
  tile: Tile,
  tiles: number,
  camera: Camera,
): { u: number; v: number } | null {
  const at = tileAt(stage, tile, tiles, camera);
  const [u, v] = [(point.x - at.x) / at.width, (point.y - at.y) / at.height];
  return u < 0 || v < 0 || u >= tiles || v >= tiles ? null : { u, v };
}

/** Zoom by `factor` so that what is under `point` stays there. */
export function zoomed(
  camera: Camera,
  factor: number,
  point: { x: number; y: number },
  stage: Stage,
  tile: Tile,
  tiles: number,
): Camera {
  const at = tileAt(stage, tile, tiles, camera);
  const scale = Math.min(tile.width * 64, Math.max(32, at.width * factor));
  const [u, v] = [(point.x - at.x) / at.width, (point.y - at.y) / at.height];
  const aspect = tile.height / tile.width;
  return {
    scale,
    x: u + (stage.width / 2 - point.x) / scale,
    y: v + (stage.height / 2 - point.y) / (scale * aspect),
  };
}

/** Move the picture by screen pixels. */
export function panned(
  camera: Camera,
  by: { x: number; y: number },
  stage: Stage,
  tile: Tile,
  tiles: number,
): Camera {
  const at = tileAt(stage, tile, tiles, camera);
  return {
    scale: at.width,
    x: (stage.width / 2 - at.x - by.x) / at.width,
    y: (stage.height / 2 - at.y - by.y) / at.height,
  };
}

/**
 * What is drawn between two x of the stage; `left` and `width` are its own frame where it has one
 * beside another.
 */
type Side = {
  image: CanvasImageSource & Tile;
  detail?: Detail | null;
  from: number;
  to: number;
  left?: number;
  width?: number;
};

/** Part of a picture at the set's own size: its texels from `x`, `y` of a whole of `of`. */
export type Detail = {
  image: CanvasImageSource;
  x: number;
  y: number;
  width: number;
  height: number;
  of: Tile;
};

/**
 * The texels of the set's own size that the stage shows, or null while the picture at hand has as
 * many as the screen.
 */
export function detailWanted(
  stage: Stage,
  tile: Tile,
  own: Tile,
  tiles: number,
  camera: Camera,
): Omit<Detail, "image"> | null {
  const at = tileAt(stage, tile, tiles, camera);
  if (own.width <= tile.width || at.width <= tile.width) return null;
  const per = own.width / at.width;
  const span = (start: number, stage: number, texels: number) => {
    const [low, high] = [Math.floor(-start * per), Math.ceil((stage - start) * per)].map((v) =>
      Math.min(texels, Math.max(0, v)),
    );
    return high > low ? [low, high - low] : null;
  };
  const [across, along] = [
    span(at.x, stage.width, own.width),
    span(at.y, stage.height, own.height),
  ];
  return (
    across && along && { x: across[0], y: along[0], width: across[1], height: along[1], of: own }
  );
}

/**
 * Draw each side's image, tiled, between its two x. Texels stay sharp once they are larger than a
 * screen pixel.
 */
export function drawFlat(
  context: CanvasRenderingContext2D,
  stage: Stage,
  sides: Side[],
  tiles: number,
  camera: Camera,
) {
  context.clearRect(0, 0, stage.width, stage.height);
  for (const { image, detail, from, to, left = 0, width = stage.width } of sides) {
    const at = tileAt({ width, height: stage.height }, image, tiles, camera);
    context.save();
    context.beginPath();
    context.rect(from, 0, to - from, stage.height);
    context.clip();
    context.imageSmoothingEnabled = at.width < image.width;
    context.imageSmoothingQuality = "high";
    drawTiles(context, { ...at, x: left + at.x }, image, tiles);
    if (detail) {
      const [wide, high] = [at.width / detail.of.width, at.height / detail.of.height];
      context.imageSmoothingEnabled = wide < 1;
      context.drawImage(
        detail.image,
        left + at.x + detail.x * wide,
        at.y + detail.y * high,
        detail.width * wide,
        detail.height * high,
      );
    }
    context.restore();
  }
}

/** One channel of a picture as gray. */
export function channelOf({ bytes }: Pixels, channel: number): ArrayBuffer {
  const from = new Uint8Array(bytes),
    gray = new Uint8Array(from.length);
  for (let k = 0; k < from.length; k += 4) {
    gray[k] = gray[k + 1] = gray[k + 2] = from[k + channel];
    gray[k + 3] = 255;
  }
  return gray.buffer;
}

/**
 * How far two pictures' bytes are apart, times `gain`; null where they have no texels in common.
 */
export function differenceOf(
  a: Pixels,
  b: Pixels,
  gain: number,
): Uint8ClampedArray<ArrayBuffer> | null {
  if (a.width !== b.width || a.height !== b.height) return null;
  const [first, second] = [new Uint8Array(a.bytes), new Uint8Array(b.bytes)];
  const apart = new Uint8ClampedArray(first.length);
  for (let k = 0; k < first.length; k++)
    apart[k] = k % 4 === 3 ? 255 : Math.abs(first[k] - second[k]) * gain;
  return apart;
}
type Pixels = { width: number; height: number; bytes: ArrayBuffer };

type Box = { x: number; y: number; width: number; height: number };

/**
 * Draw a picture on every tile, which meet on whole pixels of the screen: between two that share one
 * the ground would show through as a seam that is not in the picture.
 */
function drawTiles(
  context: CanvasRenderingContext2D,
  at: Box,
  image: CanvasImageSource,
  tiles: number,
) {
  const edges = (start: number, side: number) =>
    Array.from({ length: tiles + 1 }, (_, k) => Math.round(start + k * side));
  const [across, down] = [edges(at.x, at.width), edges(at.y, at.height)];
  for (let row = 0; row < tiles; row++)
    for (let column = 0; column < tiles; column++) {
      const [x, y] = [across[column], down[row]];
      context.drawImage(image, x, y, across[column + 1] - x, down[row + 1] - y);
    }
}

/** Lay a picture over every tile. */
export function drawOver(
  context: CanvasRenderingContext2D,
  at: Box,
  overlay: CanvasImageSource,
  tiles: number,
) {
  context.imageSmoothingEnabled = false;
  drawTiles(context, at, overlay, tiles);
}

const PICK_RADIUS = { clicked: 6, brushed: 3 };

/**
 * Mark spots on the first tile: a filled ring for what is, an empty one for what is not; those of a
 * brushed spot small, as they lie in a row.
 */
export function drawPicks(
  context: CanvasRenderingContext2D,
  at: Box,
  picks: Pick[],
  ratio: number,
) {
  for (const { x, y, value, stroke } of picks) {
    const radius = stroke == null ? PICK_RADIUS.clicked : PICK_RADIUS.brushed;
    context.beginPath();
    context.arc(at.x + x * at.width, at.y + y * at.height, radius * ratio, 0, 2 * Math.PI);
    context.fillStyle = value > 0.5 ? "#a4512a" : "rgb(255 255 255 / 35%)";
    context.fill();
    for (const [color, width] of [
      ["#1f1e1c", radius > PICK_RADIUS.brushed ? 4 : 3],
      ["#ffffff", radius > PICK_RADIUS.brushed ? 2 : 1],
    ] as const) {
      context.strokeStyle = color;
      context.lineWidth = width * ratio;
      context.stroke();
    }
  }
}
