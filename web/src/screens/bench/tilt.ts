/** Degrees from flat: the mean, and what one texel of a hundred exceeds. */
export type Tilt = { mean: number; steepest: number };

const DEGREES = 180 / Math.PI;
const HALVINGS = 40;

/**
 * How far a surface leans that rises by a share of its width; `slopes` are those of a rise of one
 * width, flattest first.
 */
export function tiltOf(slopes: readonly number[], rise: number): Tilt {
  const leans = slopes.map((slope) => Math.atan(slope * rise) * DEGREES);
  return {
    mean: leans.reduce((sum, lean) => sum + lean, 0) / Math.max(1, leans.length),
    steepest: leans.at(-1) ?? 0,
  };
}

/** The rise at which it leans by so much on average, within 0.01 to 100 % of the width. */
export function riseFor(slopes: readonly number[], mean: number): number {
  let [low, high] = [1e-4, 1];
  for (let k = 0; k < HALVINGS; k++) {
    const rise = Math.sqrt(low * high);
    if (tiltOf(slopes, rise).mean > mean) high = rise;
    else low = rise;
  }
  return Number(Math.sqrt(low * high).toPrecision(3));
}
