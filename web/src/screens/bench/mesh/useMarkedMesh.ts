import { useEffect, useState } from "react";
import { useBorders } from "../../../api/meshes";
import { bodyWorn } from "../../../view3d/names";
import { useView } from "../view";
import { markPictures } from "./marks";

const PX = 1024;
const LINES = [
  ["#000000", 5],
  ["#f2d9c6", 2.5],
] as const;

/** What is drawn over the flat picture, as one picture for the body; null where nothing is wanted there. */
export function useMarkedMesh(): HTMLCanvasElement | null {
  const mesh = useView((view) => view.mesh);
  const marks = useView((view) => view.meshMarks);
  const missed = useView((view) => view.missed);
  const isWanted = useView(
    ({ isOnMesh, meshMarks, body, mesh }) =>
      isOnMesh && meshMarks.length > 0 && bodyWorn(body, mesh, { x: "", y: "" }) === mesh,
  );
  const material = mesh?.material ?? 0;
  const hasBorders = isWanted && marks.includes("islands");
  const borders = useBorders(mesh?.look ?? null, material, hasBorders);
  const [drawn, setDrawn] = useState<HTMLCanvasElement | null>(null);
  useEffect(() => {
    if (!isWanted || !mesh) {
      setDrawn(null);
      return;
    }
    let isLeft = false;
    const urls = markPictures(marks, mesh.look, material, missed);
    void Promise.all(urls.map(loaded)).then((pictures) => {
      if (!isLeft) setDrawn(together(pictures, hasBorders ? borders : []));
    });
    return () => {
      isLeft = true;
    };
  }, [isWanted, mesh, marks, material, missed, hasBorders, borders]);
  return drawn;
}

async function loaded(url: string): Promise<HTMLImageElement> {
  const picture = new Image();
  picture.src = url;
  await picture.decode();
  return picture;
}

function together(pictures: HTMLImageElement[], borders: number[][]): HTMLCanvasElement | null {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = PX;
  const context = canvas.getContext("2d");
  if (!context) return null;
  for (const picture of pictures) context.drawImage(picture, 0, 0, PX, PX);
  for (const [color, width] of LINES) {
    context.strokeStyle = color;
    context.lineWidth = width;
    context.beginPath();
    for (const [x, y, u, v] of borders) {
      context.moveTo(x * PX, y * PX);
      context.lineTo(u * PX, v * PX);
    }
    context.stroke();
  }
  return canvas;
}
