import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { type Arranged, api, type IntakeEntry, settled } from "../../api/client";
import { idOf } from "../../parts/idOf";
import { usePaced } from "../../parts/usePaced";
import { isUsable, keyOf, type Row } from "./rows";

/** A file of one more tile of a map, by its number. */
export type Tile = { tile: number; row: Row };

/**
 * One line of the table: a file, where it goes by the server's word, and the other tiles of its
 * map. `place` is missing while the server has not said it yet, and for a file that is not read.
 * `gaps` are tiles that other maps of its set have, and this one has no file for.
 */
export type Line = { row: Row; place: Arranged | undefined; tiles: Tile[]; gaps: number[] };

export type Places = Map<string, Arranged & { headKey: string | null }>;

const PACE_MS = 3; // for each file, while they are read: all of them are told each time

/** What changes the table by itself: files that are read into it, or sets that are taken from it. */
export type Moving = "reading" | "taking" | null;

/**
 * Every file's place among the others, asked anew whenever anything was said of one: now and then
 * while hundreds are read, and not while sets are taken in, which leaves the others in their places.
 */
export function useArrangement(rows: Row[], moving: Moving) {
  const now = useMemo(() => rows.filter(({ look }) => look.readable).map(offered), [rows]);
  const pace = { reading: now.length * PACE_MS, taking: null, still: 0 }[moving ?? "still"];
  const files = usePaced(now, pace);
  const query = useQuery({
    queryKey: ["arrangement", idOf(files)],
    queryFn: async ({ signal }): Promise<Places> => {
      const places = await settled(api.POST("/api/arrangements", { body: { files }, signal }));
      return new Map(
        places.map((place, k) => [
          keyOf(files[k]),
          { ...place, headKey: place.head === null ? null : keyOf(files[place.head]) },
        ]),
      );
    },
    enabled: files.length > 0,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 0,
  });
  const places = query.data;
  const lines = useMemo(() => linesOf(rows, places ?? new Map()), [rows, places]);
  const isBehind = now.length > 0 && (files !== now || query.isFetching || !places);
  return { lines, places, isBehind, problem: query.error };
}

/** What was found on a file; nothing of one that a better file of its set is taken for. */
export const foundOn = ({ row: { look, isByLayers }, place }: Line) =>
  isSpared(place)
    ? []
    : (look.findings ?? []).filter(
        ({ id }) => id !== "unknown-kind" || (look.kind === "unknown" && !isByLayers),
      );

/** Whether a file gives nothing, and nobody has to decide so. */
const isSpared = (place: Arranged | undefined): boolean =>
  !!place?.rival && place.rival.relation !== "rival" && !Object.keys(place.reads).length;

const offered = (row: Row) => ({
  sha256: row.look.sha256,
  name: row.look.name,
  set_name: row.look.set_name,
  is_set_told: "set_name" in row.byHand,
  folder: row.look.folder,
  kind: row.look.kind,
  reads: isUsable(row) ? row.look.reads : {},
  confidence: row.look.confidence,
  width: row.look.width ?? 1,
  height: row.look.height ?? 1,
  quality: row.look.quality,
  is_named: row.look.is_named,
  is_constant: row.look.is_constant,
  is_fitted: row.look.fit !== undefined,
  letters: row.look.letters ?? "",
  is_kind_told: "kind" in row.byHand,
});

/** Lines in the order of sets and names; tiles of one map are one line, that of the first. */
export function linesOf(rows: Row[], places: Places): Line[] {
  const tiles = new Map<string, Tile[]>();
  for (const row of rows) {
    const place = places.get(keyOf(row.look));
    if (!place?.headKey) continue;
    const others = tiles.get(place.headKey) ?? [];
    tiles.set(place.headKey, [...others, { tile: place.tile ?? 0, row }]);
  }
  const lines = rows
    .filter(({ look }) => !places.get(keyOf(look))?.headKey)
    .map((row): Line => {
      const key = keyOf(row.look);
      const others = (tiles.get(key) ?? []).sort((a, b) => a.tile - b.tile);
      return { row, place: places.get(key), tiles: others, gaps: [] };
    });
  return withGaps(lines).sort(
    (a, b) => setOf(a).localeCompare(setOf(b)) || a.row.look.name.localeCompare(b.row.look.name),
  );
}

function withGaps(lines: Line[]): Line[] {
  const wholes = new Map<string, Set<number>>();
  for (const line of lines.filter(({ row }) => isUsable(row))) {
    const whole = wholes.get(setOf(line)) ?? new Set();
    wholes.set(setOf(line), new Set([...whole, ...tilesOf(line)]));
  }
  return lines.map((line) => {
    const own = tilesOf(line);
    if (!own.length) return line;
    const gaps = [...(wholes.get(setOf(line)) ?? [])].filter((tile) => !own.includes(tile));
    return { ...line, gaps: gaps.sort((a, b) => a - b) };
  });
}

/** Numbers of the tiles that a line has files for; none where its map is one picture. */
export const tilesOf = ({ place, tiles }: Line): number[] =>
  place?.tile ? [place.tile, ...tiles.map(({ tile }) => tile)] : [];

/** The set a line goes to: as a person said, else where the server puts it. */
export const setOf = ({ row, place }: Line): string =>
  "set_name" in row.byHand ? row.look.set_name : (place?.set_name ?? row.look.set_name);

/** Names of the sets that lines make. */
export const setsOf = (lines: Line[]): string[] => [
  ...new Set(lines.filter(({ row }) => isUsable(row)).map(setOf)),
];

/**
 * What is sent of a line; null when a better file gives all of it, or nobody has said where it
 * goes.
 */
export function entryOf({ row: { look }, place, tiles }: Line): IntakeEntry | null {
  const reads = place?.reads ?? {};
  if (!Object.keys(reads).length) return null;
  const spans = Object.fromEntries(
    Object.entries(look.spans ?? {}).filter(([letters]) => letters in reads),
  );
  const sides = [look, ...tiles.map(({ row }) => row.look)].map(({ green }) => green);
  return {
    sha256: look.sha256,
    name: look.name,
    kind: look.kind ?? "unknown",
    reads,
    spans,
    corrections: look.corrections,
    primaries: look.primaries,
    green: sides.find((green) => green === "up" || green === "down") ?? null,
    tiles: look.tiles,
    place: look.place,
    fit: look.fit,
    tile: place?.tile,
    beside: Object.fromEntries(
      tiles.map(({ tile, row: { look } }) => [
        tile,
        { sha256: look.sha256, name: look.name, place: look.place },
      ]),
    ),
  };
}

/** Numbers in order, those that follow each other as a run: "1001–1004, 1011". */
export function runsOf(numbers: number[]): string {
  const runs: [first: number, last: number][] = [];
  for (const number of numbers) {
    const last = runs.at(-1);
    if (last && number === last[1] + 1) last[1] = number;
    else runs.push([number, number]);
  }
  return runs.map(([a, b]) => (a === b ? `${a}` : `${a}–${b}`)).join(", ");
}

/** Whether two lines would be drawn alike. */
export const isSameLine = (a: Line, b: Line): boolean =>
  a.row === b.row &&
  a.tiles.length === b.tiles.length &&
  a.tiles.every(({ row }, k) => row === b.tiles[k].row) &&
  a.gaps.join() === b.gaps.join() &&
  (a.place === b.place || JSON.stringify(a.place) === JSON.stringify(b.place));
