import { useEffect, useMemo, useState } from "react";
import { useBorders } from "../../../api/meshes";
import { bodyWorn } from "../../../view3d/names";
import { type Cell, cellsOf } from "../tiles";
import { useView } from "../view";
import { markPictures } from "./marks";

const PX = 1024;
const LINES = [
  ["#000000", 5],
  ["#f2d9c6", 2.5],
] as const;

/**
 * What is drawn over the flat picture, as one picture for the body; null where nothing is wanted
 * there.
 */
export function useMarkedMesh(): HTMLCanvasElement | null {
  const mesh = useView((view) => view.mesh);
  const marks = useView((view) => view.meshMarks);
  const missed = useView((view) => view.missed);
  const setTiles = useView((view) => view.setTiles);
  const isWanted = useView(
    ({ isOnMesh, meshMarks, body, mesh }) =>
      isOnMesh && meshMarks.length > 0 && bodyWorn(body, mesh, { x: "", y: "" }) === mesh,
  );
  const material = mesh?.material ?? 0;
  const hasBorders = isWanted && marks.includes("islands");
  const cells = useMemo(() => cellsOf(setTiles, setTiles.length ? "all" : null), [setTiles]);
  const borders = useBorders(
    mesh?.look ?? null,
    material,
    (hasBorders ? cells : []).map((cell) => cell.tile),
  );
  const [drawn, setDrawn] = useState<HTMLCanvasElement | null>(null);
  useEffect(() => {
    if (!isWanted || !mesh) {
      setDrawn(null);
      return;
    }
    let isLeft = false;
    const waiting = cells.map(async (cell, k) => ({
      cell,
      pictures: await Promise.all(
        markPictures(marks, mesh.look, material, missed, cell.tile).map(loaded),
      ),
      borders: borders[k] ?? [],
    }));
    void Promise.all(waiting).then((drawings) => {
      if (!isLeft) setDrawn(together(drawings));
    });
    return () => {
      isLeft = true;
    };
  }, [isWanted, mesh, marks, material, missed, cells, borders]);
  return drawn;
}

async function loaded(url: string): Promise<HTMLImageElement> {
  const picture = new Image();
  picture.src = url;
  await picture.decode();
  return picture;
}

type Drawing = { cell: Cell; pictures: HTMLImageElement[]; borders: number[][] };

function together(drawings: Drawing[]): HTMLCanvasElement | null {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = PX;
  const context = canvas.getContext("2d");
  if (!context) return null;
  for (const { cell, pictures, borders } of drawings) {
    const across = (share: number) => (cell.x + share * cell.width) * PX;
    const down = (share: number) => (cell.y + share * cell.height) * PX;
    for (const picture of pictures)
      context.drawImage(picture, across(0), down(0), cell.width * PX, cell.height * PX);
    for (const [color, width] of LINES) {
      context.strokeStyle = color;
      context.lineWidth = width;
      context.beginPath();
      for (const [x, y, u, v] of borders) {
        context.moveTo(across(x), down(y));
        context.lineTo(across(u), down(v));
      }
      context.stroke();
    }
  }
  return canvas;
}
