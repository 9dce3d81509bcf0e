import type { FileLook } from "../../api/client";

const SHOWN = [
  ["up", "Y+"],
  ["down", "Y−"],
] as const;
const NOT_RGB = ["RG", "AG", "GRB"];

/**
 * Both readings of green as clay under a lamp above, whole and at the place that tells most; a
 * click says which is right.
 */
export function LightTest({
  look,
  onGreen,
}: {
  look: FileLook;
  onGreen: (green: "up" | "down") => void;
}) {
  const letters =
    Object.entries(look.reads ?? {}).find(([, key]) => key === "normal")?.[0] ?? "RGB";
  const strip = `url(/api/originals/${look.sha256}/light?letters=${NOT_RGB.includes(letters) ? letters : "RGB"})`;
  return (
    <div
      role="radiogroup"
      aria-label={`Light test of ${look.name}`}
      className="flex items-end gap-5"
    >
      {SHOWN.map(([green, title], reading) => (
        <button
          type="button"
          key={green}
          role="radio"
          aria-checked={look.green === green}
          onClick={() => onGreen(green)}
          className="group cursor-pointer text-left"
        >
          <Arrow />
          <span className="flex gap-1.5 border-2 border-transparent p-0.5 group-aria-checked:border-copper">
            {["whole", "the most telling place"].map((part, k) => (
              <i
                key={part}
                role="img"
                aria-label={`${title}, ${part}`}
                className="block size-[150px] bg-surround"
                style={{
                  backgroundImage: strip,
                  backgroundSize: "600px 150px",
                  backgroundPosition: `${-150 * (2 * reading + k)}px 0`,
                }}
              />
            ))}
          </span>
          <span className="mt-1 flex items-center gap-1.5">
            <i className="grid size-3.5 place-items-center rounded-full border border-ink2">
              <i className="size-2 rounded-full group-aria-checked:bg-copper" />
            </i>
            Read as {title}
          </span>
        </button>
      ))}
      <p className="max-w-64 pb-1 text-ink2">
        The lamp is above: flanks that face it must be bright, so what stands out is bright on top.
        Left of each pair the whole map, right the place that tells most.
        <br />
        {look.green_reason}
      </p>
    </div>
  );
}

function Arrow() {
  return (
    <svg viewBox="0 0 310 26" className="block h-[26px] w-[310px] text-copper" aria-hidden>
      {[76, 232].map((x) => (
        <path
          key={x}
          d={`M${x} 2 V21 M${x - 7} 14 L${x} 22 L${x + 7} 14`}
          fill="none"
          stroke="currentColor"
          strokeWidth={2.5}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      ))}
    </svg>
  );
}
