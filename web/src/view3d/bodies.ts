import { BufferAttribute, BufferGeometry, Vector3 } from "three";
import type { Body } from "./names";

/**
 * Test bodies, each a sheet bent through space: (u, v) in 0..1, v up, to a point. `tiles` says how
 * many tiles cover it, across and up, for a square tile to stay about square; `tileWidth` is the
 * width of one tile in the body's units.
 */
type Sheet = {
  point: (u: number, v: number) => [number, number, number];
  tiles: [number, number];
  tileWidth: number;
  split?: number;
  isOnePicture?: boolean; // takes the form of the picture, which is not repeated to cover it
};

// a body that is displaced needs a place for every bump
const RINGS = { smooth: 64, displaced: 192 };
const { sin, cos, PI } = Math;

const SHEETS: Record<Body, Sheet> = {
  plane: {
    point: (u, v) => [2 * u - 1, 2 * v - 1, 0],
    tiles: [1, 1],
    tileWidth: 2,
    isOnePicture: true,
  },
  ball: {
    point: (u, v) => [-sin(2 * PI * u) * sin(PI * v), -cos(PI * v), -cos(2 * PI * u) * sin(PI * v)],
    tiles: [4, 2],
    tileWidth: PI / 2,
  },
  tube: {
    point: (u, v) => [0.7 * sin(2 * PI * (u - 0.5)), 2 * v - 1, 0.7 * cos(2 * PI * (u - 0.5))],
    tiles: [4, 2],
    tileWidth: (0.7 * PI) / 2,
  },
  cushion: {
    point: (u, v) => [2 * u - 1, 2 * v - 1, 0.42 * Math.sqrt(sin(PI * u) * sin(PI * v))],
    tiles: [1, 1],
    tileWidth: 2,
    isOnePicture: true,
  },
  fold: {
    point: (u, v) => [0.83 * (2 * u - 1), ...bent(v)],
    tiles: [2, 3],
    tileWidth: 0.83,
    split: 2 / 3,
  },
};

const FOLD_LENGTH = 2.5;
const FOLD_STEPS = 48;
/**
 * How far the strip leans back, in radians, at a share of its length: towards the eye, away from
 * it, and a hard edge.
 */
const leanAt = (share: number) => (share < 2 / 3 ? 0.8 * Math.sin(3 * PI * (share - 1 / 6)) : -0.8);

/** Height and depth of the strip after a share of its length: its lean added up. */
function bent(share: number): [number, number] {
  const step = (FOLD_LENGTH * share) / FOLD_STEPS;
  let [y, z] = [0, 0];
  for (let k = 0; k < FOLD_STEPS; k++) {
    const lean = leanAt(((k + 0.5) / FOLD_STEPS) * share);
    y += step * cos(lean);
    z -= step * sin(lean);
  }
  return [y, z];
}

/** The sheet for a picture of this width over height, so that nothing on it is squeezed. */
function sheetFor(body: Body, aspect: number): Sheet {
  const sheet = SHEETS[body];
  if (!sheet.isOnePicture) return { ...sheet, tiles: [sheet.tiles[0], sheet.tiles[1] * aspect] };
  const [across, up] = [Math.min(1, aspect), Math.min(1, 1 / aspect)];
  return {
    ...sheet,
    tileWidth: sheet.tileWidth * across,
    point: (u, v) => {
      const [x, y, z] = sheet.point(u, v);
      return [x * across, y * up, z * Math.min(across, up)];
    },
  };
}

/**
 * Triangles of a body with its texture coordinates in tiles, more of them where it is displaced.
 * `aspect` is the width of the picture that it wears over its height.
 */
export function bodyOf(
  body: Body,
  isDisplaced: boolean,
  aspect = 1,
): { geometry: BufferGeometry; tileWidth: number } {
  const rings = RINGS[isDisplaced ? "displaced" : "smooth"];
  const { point, tiles, tileWidth, split } = sheetFor(body, aspect);
  const parts = split
    ? [
        [0, split],
        [split, 1],
      ]
    : [[0, 1]];
  const [places, normals, uvs, corners]: number[][] = [[], [], [], []];
  for (const [low, high] of parts) {
    const start = places.length / 3;
    for (let row = 0; row <= rings; row++)
      for (let column = 0; column <= rings; column++) {
        const [u, v] = [column / rings, low + ((high - low) * row) / rings];
        places.push(...point(u, v));
        normals.push(...outward(point, u, v, low, high));
        uvs.push(u * tiles[0], v * tiles[1]);
        if (row === rings || column === rings) continue;
        const at = start + row * (rings + 1) + column;
        corners.push(at, at + 1, at + rings + 2, at, at + rings + 2, at + rings + 1);
      }
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array(places), 3));
  geometry.setAttribute("normal", new BufferAttribute(new Float32Array(normals), 3));
  geometry.setAttribute("uv", new BufferAttribute(new Float32Array(uvs), 2));
  geometry.setIndex(corners);
  geometry.center();
  return { geometry, tileWidth };
}

/** Unit normal of the sheet from two short steps that stay within its part, and off the poles. */
function outward(
  point: Sheet["point"],
  u: number,
  v: number,
  low: number,
  high: number,
): [number, number, number] {
  const step = 1e-3;
  const [u0, u1] = [Math.max(0, u - step), Math.min(1, u + step)];
  const w = Math.min(high - step, Math.max(low + step, v));
  const along = (a: [number, number, number], b: [number, number, number]) =>
    new Vector3(...b).sub(new Vector3(...a));
  const across = along(point(u0, w), point(u1, w));
  const up = along(point(u, w - step), point(u, w + step));
  const facing = across.cross(up).normalize();
  return [facing.x, facing.y, facing.z];
}
