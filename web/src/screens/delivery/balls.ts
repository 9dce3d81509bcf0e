import { addressed } from "../../parts/addressed";
import { ask } from "../../parts/ask";
import { sure } from "../../parts/sure";

/** What stands side by side: the masters, what the target makes of its files, and what differs. */
export const BALL_SIDES = ["Masters", "As the target sees it", "Difference"];

/**
 * Pictures by side (the target's, the masters'), lamp, row, column and color, 0..1 as a display
 * shows them.
 */
export type Balls = { px: number; lamps: number; values: Float32Array };

const SIDES = 2;
const [TARGETS, MASTERS] = [0, 1];

export async function ballsOf(
  deliveryId: string,
  query: { set: string; target: string; tile?: number },
): Promise<Balls> {
  const response = await ask(
    `/api/deliveries/${deliveryId}/proof/ball/pictures?${addressed(query)}`,
  );
  if (!response.ok) throw new Error((await response.json()).detail);
  const px = Number(response.headers.get("x-width"));
  const { DataUtils } = await import("three"); // loaded with the first proof, not with the page
  const bits = new Uint16Array(await response.arrayBuffer());
  const values = Float32Array.from(bits, (one) => DataUtils.fromHalfFloat(one));
  return { px, lamps: values.length / (SIDES * px * px * 3), values };
}

/**
 * Draw one of `BALL_SIDES` under one lamp; the difference is taken before it is rounded to what a
 * display shows.
 */
export function drawBall(
  canvas: HTMLCanvasElement,
  { px, lamps, values }: Balls,
  lamp: number,
  side: number,
  gain: number,
) {
  canvas.width = canvas.height = px;
  const image = new ImageData(px, px);
  const count = px * px * 3;
  const [theirs, masters] = [TARGETS, MASTERS].map((which) =>
    values.subarray((which * lamps + lamp) * count, (which * lamps + lamp + 1) * count),
  );
  for (let k = 0; k < count; k += 1) {
    const shown = [masters[k], theirs[k], Math.abs(masters[k] - theirs[k]) * gain][side];
    image.data[Math.floor(k / 3) * 4 + (k % 3)] = Math.round(255 * Math.min(1, shown));
  }
  for (let k = 3; k < image.data.length; k += 4) image.data[k] = 255;
  sure(canvas.getContext("2d"), "drawing on a canvas").putImageData(image, 0, 0);
}
