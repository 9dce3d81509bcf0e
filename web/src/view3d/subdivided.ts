import { BufferAttribute, BufferGeometry } from "three";
import type { OwnMesh } from "./names";

const MOST = 400_000; // triangles: a body must still turn under the hand
const kept = new WeakMap<BufferGeometry, BufferGeometry>();

/** How often each side is halved so that a mesh has at most `MOST` triangles. */
export const halvings = (triangles: number): number =>
  Math.max(0, Math.floor(Math.log(MOST / Math.max(triangles, 1)) / Math.log(4)));

/**
 * A person's own mesh with so many triangles that a height can shape it: every side halved again
 * and again, flat as it was, normals and map between those of its corners.
 */
export function subdivided({ geometry }: OwnMesh): { geometry: BufferGeometry; times: number } {
  const times = halvings(geometry.getAttribute("position").count / 3);
  const found = kept.get(geometry) ?? halved(geometry, times);
  kept.set(geometry, found);
  return { geometry: found, times };
}

function halved(geometry: BufferGeometry, times: number): BufferGeometry {
  const made = new BufferGeometry();
  for (const [name, { array, itemSize }] of Object.entries(geometry.attributes)) {
    let rows: Float32Array = Float32Array.from(array);
    for (let k = 0; k < times; k++) rows = quartered(rows, itemSize);
    made.setAttribute(name, new BufferAttribute(rows, itemSize));
  }
  return made;
}

/** Four triangles in the place of each: its corners' values, and those between them. */
export function quartered(rows: Float32Array, size: number): Float32Array {
  const out = new Float32Array(4 * rows.length);
  const at = (corner: number, k: number) => rows[corner * size + k];
  for (let first = 0, to = 0; first < rows.length / size; first += 3) {
    const ends = [first, first + 1, first + 2];
    // each corner's own triangle, then the one in the middle; a pair is the place between two
    // corners
    const [a, b, c] = ends.map((corner) => [corner, corner]);
    const [ab, bc, ca] = [
      [ends[0], ends[1]],
      [ends[1], ends[2]],
      [ends[2], ends[0]],
    ];
    for (const [p, q] of [a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca])
      for (let k = 0; k < size; k++) out[to++] = (at(p, k) + at(q, k)) / 2;
  }
  return out;
}

/**
 * How many texels of a map of `px` lie along a side of the mesh's triangles, on average, once they
 * are halved.
 */
export function texelsASide({ geometry }: OwnMesh, px: number): number {
  const uv = geometry.getAttribute("uv");
  let long = 0;
  for (let k = 0; k < uv.count; k += 3)
    for (const [a, b] of [
      [k, k + 1],
      [k + 1, k + 2],
      [k + 2, k],
    ])
      long += Math.hypot(uv.getX(b) - uv.getX(a), uv.getY(b) - uv.getY(a));
  return (px * long) / Math.max(uv.count, 1) / 2 ** halvings(uv.count / 3);
}
