import type { BufferGeometry } from "three";
import type { Piece } from "./names";

/** The tiles that a picture shows: how many across and up, and the column and row of the first. */
type Shown = { columns: number; rows: number; left: number; low: number };

const made = new WeakMap<BufferGeometry, Map<string, Piece>>();

/** The same mesh for a picture of several tiles at once, each of which lies on it by its number. */
export function inTiles<T extends Piece>(mesh: T, shown: Shown): T {
  const { columns, rows, left, low } = shown;
  const key = [columns, rows, left, low].join(" ");
  const known = made.get(mesh.geometry) ?? new Map<string, Piece>();
  made.set(mesh.geometry, known);
  const found = known.get(key) as T | undefined;
  if (found) return found;
  const geometry = mesh.geometry.clone();
  const uv = geometry.getAttribute("uv");
  for (let k = 0; k < uv.count; k++)
    uv.setXY(k, (uv.getX(k) - left) / columns, (uv.getY(k) - low) / rows);
  const next = { ...mesh, geometry };
  known.set(key, next);
  return next;
}
