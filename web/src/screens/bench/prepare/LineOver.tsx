import { useView } from "../view";
import { Both, type OverProps, Painting, type Place, placed } from "./drawing";
import { type Drawn, linesOf, type Point, pathOf, type StepOf } from "./steps";

/**
 * The tile on the picture, bounded by the real line and its twin; what lies outside is dimmed, and
 * can be painted on.
 */
export function LineOver({ at, index, step, steps }: OverProps<StepOf<"repeat">>) {
  const prep = useView((view) => view.prep);
  const tool = prep?.tool === "brush" ? null : prep?.tool;
  const radius = prep?.radius ?? 0.02;
  const asked = steps.askedAt(index, step);
  const sides = [step.x?.side ?? 1, step.y?.side ?? 1];
  const across = step.x ? linesOf(step.x, "x", 1) : null;
  const down = step.y ? linesOf(step.y, "y", sides[0]) : null;
  const handlePainted = (drawn: Drawn[]) => {
    if (!tool) return;
    const points = drawn.map(([x, y]): Point => [x, y]);
    const painted = [...asked.guide[tool], { points, radius }];
    steps.repeat(index, { ...asked, guide: { ...asked.guide, [tool]: painted } });
  };
  return (
    <>
      <svg
        className="pointer-events-none absolute overflow-visible"
        style={placed(at)}
        width={at.width}
        height={at.height}
        data-testid="repeat-line"
      >
        <title>The line, and its twin one tile on</title>
        {/* one group: what lies outside of both is dimmed once */}
        <g className="opacity-45">
          {across && <Outside line={across[0]} twin={across[1]} axis="x" at={at} />}
          {down && <Outside line={down[0]} twin={down[1]} axis="y" at={at} />}
        </g>
        {[across, down].map(
          (lines, k) =>
            lines && (
              <g key={k}>
                <Both d={pathOf(lines[0], at.width, at.height)} />
                <Both d={pathOf(lines[1], at.width, at.height)} isDashed />
              </g>
            ),
        )}
        {(["keep", "avoid"] as const).flatMap((name) =>
          asked.guide[name].map((stroke) => (
            <path
              key={`${name} ${stroke.points[0]} ${stroke.points.length}`}
              d={pathOf(stroke.points, at.width, at.height)}
              className={`fill-none opacity-50 [stroke-linecap:round] [stroke-linejoin:round]
                ${name === "keep" ? "stroke-verdigris" : "stroke-stop"}`}
              strokeWidth={2 * stroke.radius * at.width}
            />
          )),
        )}
      </svg>
      {tool && (
        <Painting
          at={at}
          radius={radius}
          className={tool === "keep" ? "stroke-verdigris" : "stroke-stop"}
          label={tool === "keep" ? "Paint what to keep" : "Paint where the line had better not run"}
          onDone={handlePainted}
        />
      )}
    </>
  );
}

type OutsideProps = { line: Point[]; twin: Point[]; axis: "x" | "y"; at: Place };

/** What lies before the line and behind its twin is not in the tile. */
function Outside({ line, twin, axis, at }: OutsideProps) {
  const end = (value: number, to: Point[]): Point[] => {
    const [first, last] = [to[0], to[to.length - 1]];
    return axis === "x"
      ? [
          [value, last[1]],
          [value, first[1]],
        ]
      : [
          [last[0], value],
          [first[0], value],
        ];
  };
  return (
    <>
      <path d={`${pathOf([...line, ...end(0, line)], at.width, at.height)}Z`} />
      <path d={`${pathOf([...twin, ...end(1, twin)], at.width, at.height)}Z`} />
    </>
  );
}
