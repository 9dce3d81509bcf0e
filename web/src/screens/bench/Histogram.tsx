import { useMemo } from "react";
import type { TextureSet } from "../../api/client";
import type { Picture } from "./pictures";

const BINS = 64;
const [WIDTH, HEIGHT] = [192, 52];

/**
 * How often each value occurs on the picture shown, the usual range of such a map drawn in, and its
 * mean in numbers.
 */
export function Histogram({
  picture,
  master,
}: {
  picture: Picture;
  master: TextureSet["masters"][number];
}) {
  const { bins, mean, spread } = useMemo(() => counted(picture), [picture]);
  const most = Math.max(...bins, 1);
  const natural = (share: number) => master.low + share * (master.high - master.low);
  const usual = master.usual?.map((v) => (v - master.low) / (master.high - master.low));
  const isOff = usual !== undefined && (mean < usual[0] || mean > usual[1]);
  const points = bins
    .map((n, k) => `${(k / (BINS - 1)) * WIDTH},${HEIGHT - Math.sqrt(n / most) * HEIGHT}`)
    .join(" ");
  return (
    <figure
      className="absolute right-3 bottom-3.5 rounded-[3px] bg-tag p-2 text-sm text-on-tag"
      aria-label="Histogram"
    >
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="block h-[52px] w-[192px]" aria-hidden>
        {usual && (
          <rect
            x={usual[0] * WIDTH}
            y={0}
            width={(usual[1] - usual[0]) * WIDTH}
            height={HEIGHT}
            fill="#ffffff"
            opacity={0.16}
          />
        )}
        <polygon
          points={`0,${HEIGHT} ${points} ${WIDTH},${HEIGHT}`}
          fill="#ffffff"
          opacity={0.75}
        />
        <line
          x1={mean * WIDTH}
          x2={mean * WIDTH}
          y1={0}
          y2={HEIGHT}
          stroke="#e0956a"
          strokeWidth={1.5}
        />
      </svg>
      <figcaption>
        mean {natural(mean).toFixed(2)}, spread {(spread * (master.high - master.low)).toFixed(2)}
        {usual && master.usual && ` · usual ${master.usual.map((v) => v.toFixed(2)).join(" to ")}`}
        {isOff && " ■"}
      </figcaption>
    </figure>
  );
}

/**
 * Counts, mean and deviation of a picture's bytes on 0..1; of colors their brightness as stored.
 */
function counted({ bytes }: Picture) {
  const pixels = new Uint8Array(bytes);
  const bins = new Array<number>(BINS).fill(0);
  let sum = 0,
    squares = 0;
  for (let k = 0; k < pixels.length; k += 4) {
    const value = (0.2126 * pixels[k] + 0.7152 * pixels[k + 1] + 0.0722 * pixels[k + 2]) / 255;
    bins[Math.min(BINS - 1, Math.floor(value * BINS))]++;
    sum += value;
    squares += value * value;
  }
  const count = pixels.length / 4,
    mean = sum / count;
  return { bins, mean, spread: Math.sqrt(Math.max(0, squares / count - mean * mean)) };
}
