import { useMemo } from "react";
import { useBorders } from "../../api/meshes";
import { Both, type Place, placed } from "./prepare/drawing";
import { useView } from "./view";

/** The borders of the own mesh's islands over the flat picture. */
export function BordersOver({ at }: { at: Place }) {
  const mesh = useView((view) => view.mesh);
  const borders = useBorders(mesh?.look ?? null, mesh?.material ?? 0, true);
  const { width, height } = at;
  const path = useMemo(
    () =>
      borders
        .map(
          ([x, y, u, v]) =>
            `M${(x * width).toFixed(1)} ${(y * height).toFixed(1)}L${(u * width).toFixed(1)} ${(v * height).toFixed(1)}`,
        )
        .join(""),
    [borders, width, height],
  );
  return (
    <svg
      role="img"
      aria-label="Borders of the mesh's islands"
      className="pointer-events-none absolute overflow-visible"
      style={placed(at)}
      width={width}
      height={height}
      data-pieces={borders.length}
    >
      <Both d={path} />
    </svg>
  );
}
