import { useView } from "./view";

/**
 * On each side of the divide, an arrow from where the lamp stands: the flanks that face it must be
 * bright.
 */
export function LightArrow({ size }: { size: { width: number; height: number } }) {
  const lamp = useView((view) => view.lamp);
  const divide = useView((view) => view.divide);
  const far = Math.hypot(...lamp);
  if (far < 0.15) return null; // a lamp behind the eye has no side
  const [x, y] = [lamp[0] / far, -lamp[1] / far];
  const side = Math.min(size.width, size.height);
  const reach = side * 0.25;
  const middles = [divide * size.width - side * 0.19, divide * size.width + side * 0.19];
  return (
    <svg
      className="pointer-events-none absolute inset-0 size-full text-copper"
      aria-label="Light comes from here; the flanks that face it must be bright"
      role="img"
    >
      {middles.map((middle) => (
        <g
          key={middle}
          transform={
            `translate(${middle + x * reach} ${size.height / 2 + y * reach}) ` +
            `rotate(${(Math.atan2(-y, -x) * 180) / Math.PI})`
          }
        >
          <path
            d="M-46 0 H6 M-6 -8 L8 0 L-6 8"
            fill="none"
            stroke="#fff"
            strokeWidth={6}
            strokeLinecap="round"
            strokeLinejoin="round"
          />
          <path
            d="M-46 0 H6 M-6 -8 L8 0 L-6 8"
            fill="none"
            stroke="currentColor"
            strokeWidth={2.5}
            strokeLinecap="round"
            strokeLinejoin="round"
          />
        </g>
      ))}
      <rect
        x={size.width / 2 - 136}
        y={size.height - 38}
        width={272}
        height={24}
        rx={3}
        className="fill-tag"
      />
      <text
        x={size.width / 2}
        y={size.height - 22}
        textAnchor="middle"
        className="fill-on-tag text-sm"
      >
        The flanks that face the arrow must be bright
      </text>
    </svg>
  );
}
