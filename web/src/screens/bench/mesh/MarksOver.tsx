import { useMemo } from "react";
import { useBorders } from "../../../api/meshes";
import { Both, type Place, placed } from "../prepare/drawing";
import { useView } from "../view";
import { markPictures } from "./marks";

/** What is found on the mesh, over the flat picture: borders of islands as lines, the rest as hatched places. */
export function MarksOver({ at }: { at: Place }) {
  const mesh = useView((view) => view.mesh);
  const marks = useView((view) => view.meshMarks);
  const missed = useView((view) => view.missed);
  const hasBorders = marks.includes("islands");
  const material = mesh?.material ?? 0;
  const borders = useBorders(mesh?.look ?? null, material, hasBorders);
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
    <>
      {markPictures(marks, mesh?.look ?? null, material, missed).map((url) => (
        <img
          key={url}
          alt=""
          src={url}
          className="pointer-events-none absolute max-w-none"
          style={{ ...placed(at), width, height }}
        />
      ))}
      {hasBorders && (
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
      )}
    </>
  );
}
