import type { Texel } from "./stageProps";
import type { ShownTile } from "./view";

const FIRST = 1001;
const PER_ROW = 10;

/**
 * Tiles laid out as their numbers say, in as few columns and rows as hold them; `left` and `low`
 * are those of the first.
 */
export type Layout = { columns: number; rows: number; left: number; low: number };
/**
 * Where a tile stands in the picture that is shown, in shares of it from the upper left; null for a
 * set without tiles.
 */
export type Cell = { tile: number | null; x: number; y: number; width: number; height: number };

const placeOf = (tile: number) => ({
  column: (tile - FIRST) % PER_ROW,
  row: Math.floor((tile - FIRST) / PER_ROW),
});

/** How the tiles of a set lie. */
export function layoutOf(tiles: readonly number[]): Layout {
  const places = tiles.map(placeOf);
  const [columns, rows] = [places.map(({ column }) => column), places.map(({ row }) => row)];
  const [left, low] = [Math.min(...columns), Math.min(...rows)];
  return {
    columns: Math.max(...columns) - left + 1,
    rows: Math.max(...rows) - low + 1,
    left,
    low,
  };
}

/**
 * What the picture that is shown is made of: the whole of it, one tile, or every tile in its place.
 */
export function cellsOf(tiles: readonly number[], shown: ShownTile | null): Cell[] {
  if (shown !== "all" || !tiles.length)
    return [{ tile: shown === "all" ? null : shown, x: 0, y: 0, width: 1, height: 1 }];
  const { columns, rows, left, low } = layoutOf(tiles);
  const [width, height] = [1 / columns, 1 / rows];
  return tiles.map((tile) => {
    const { column, row } = placeOf(tile);
    return {
      tile,
      x: (column - left) * width,
      y: (rows - 1 - (row - low)) * height,
      width,
      height,
    };
  });
}

/**
 * A place of one picture in another that shows other tiles of the set; null where that has it not.
 */
export function seenIn(
  texel: Texel,
  tiles: readonly number[],
  from: ShownTile | null,
  to: ShownTile | null,
): Texel | null {
  if (from === to) return texel;
  const under = cellsOf(tiles, from).find(
    ({ x, y, width, height }) =>
      texel.u >= x && texel.u < x + width && texel.v >= y && texel.v < y + height,
  );
  const onto = under && cellsOf(tiles, to).find(({ tile }) => tile === under.tile);
  if (!under || !onto) return null;
  return {
    u: onto.x + ((texel.u - under.x) / under.width) * onto.width,
    v: onto.y + ((texel.v - under.y) / under.height) * onto.height,
  };
}
