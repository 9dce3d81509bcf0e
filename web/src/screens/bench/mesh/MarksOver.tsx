import { useMemo } from "react";
import { useBorders } from "../../../api/meshes";
import { Both, type Place, placed } from "../prepare/drawing";
import { type Cell, cellsOf } from "../tiles";
import { type ShownTile, useView } from "../view";
import { markPictures } from "./marks";

const NONE: Cell[] = [];

/**
 * What is found on the mesh, over the flat picture: borders of islands as lines, the rest as
 * hatched places.
 */
export function MarksOver({ at, tile }: { at: Place; tile: ShownTile | null }) {
  const mesh = useView((view) => view.mesh);
  const marks = useView((view) => view.meshMarks);
  const missed = useView((view) => view.missed);
  const setTiles = useView((view) => view.setTiles);
  const hasBorders = marks.includes("islands");
  const look = mesh?.look ?? null;
  const material = mesh?.material ?? 0;
  const cells = useMemo(() => cellsOf(setTiles, tile), [setTiles, tile]);
  const lined = hasBorders ? cells : NONE;
  const borders = useBorders(
    look,
    material,
    lined.map((cell) => cell.tile),
  );
  const { width, height } = at;
  const path = useMemo(
    () =>
      lined
        .flatMap((cell, k) =>
          borders[k].map(([x, y, u, v]) => {
            const across = (share: number) => ((cell.x + share * cell.width) * width).toFixed(1);
            const down = (share: number) => ((cell.y + share * cell.height) * height).toFixed(1);
            return `M${across(x)} ${down(y)}L${across(u)} ${down(v)}`;
          }),
        )
        .join(""),
    [lined, borders, width, height],
  );
  return (
    <>
      {cells.flatMap((cell) =>
        markPictures(marks, look, material, missed, cell.tile).map((url) => (
          <img
            key={url}
            alt=""
            src={url}
            className="pointer-events-none absolute max-w-none"
            style={{
              ...placed({ ...at, x: at.x + cell.x * width, y: at.y + cell.y * height }),
              width: cell.width * width,
              height: cell.height * height,
            }}
          />
        )),
      )}
      {hasBorders && (
        <svg
          role="img"
          aria-label="Borders of the mesh's islands"
          className="pointer-events-none absolute overflow-hidden"
          style={placed(at)}
          width={width}
          height={height}
          data-pieces={borders.reduce((sum, pieces) => sum + pieces.length, 0)}
        >
          <Both d={path} />
        </svg>
      )}
    </>
  );
}
