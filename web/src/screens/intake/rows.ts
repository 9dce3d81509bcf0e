import type { FileLook, IntakeEntry, Quantity } from "../../api/client";
import { sure } from "../../parts/sure";

/** How a file of another shape is brought to its set's: the middle of it, or all of it. */
export type Fit = NonNullable<IntakeEntry["fit"]>;

/** What is said of a file, and what a person may say of it besides. */
export type Said = Partial<FileLook> & { fit?: Fit };

/**
 * One dropped file as it stands: what it is said to be, what a person corrected of that, and
 * whether they left it out.
 */
export type Row = {
  look: FileLook & { fit?: Fit };
  byHand: Said;
  isLeftOut: boolean;
  /** Its layers stand in rows of their own and are taken instead. */
  isByLayers?: boolean;
};

/**
 * What another row holds already: by a file of the same name in another format, stored better, or
 * an equal a person has to choose from.
 */
export type Rival = { name: string; maps: string[]; is: "copy" | "worse" | "equal" };

export const isUsable = (row: Row) =>
  row.look.readable &&
  row.look.kind !== "unknown" &&
  Object.keys(row.look.reads ?? {}).length > 0 &&
  !row.isLeftOut &&
  !row.isByLayers;

const folded = (name: string) => name.replace(/[\s_.-]+/g, " ").toLowerCase();
const bySetAndName = (a: Row, b: Row) =>
  a.look.set_name.localeCompare(b.look.set_name) || a.look.name.localeCompare(b.look.name);

/**
 * Rows with new looks among them. A file read again keeps what a person corrected; a set keeps the
 * spelling it came with first.
 */
export function withLooks(rows: Row[], looks: FileLook[]): Row[] {
  const spelled = new Map(rows.map((row) => [folded(row.look.set_name), row.look.set_name]));
  const known = [...rows.map((row) => row.look), ...looks];
  const before = new Map(rows.map((row) => [keyOf(row.look), row]));
  const fresh = looks.map((look) => {
    const { byHand, isLeftOut, isByLayers } = before.get(keyOf(look)) ?? {
      byHand: {},
      isLeftOut: false,
      isByLayers: look.is_by_layers,
    };
    const stem = joinedBy(look, known) ?? look.set_name;
    const set_name = spelled.get(folded(stem)) ?? stem;
    spelled.set(folded(set_name), set_name);
    return { look: { ...look, set_name, ...byHand }, byHand, isLeftOut, isByLayers };
  });
  const again = new Set(fresh.map(({ look }) => keyOf(look)));
  return [...rows.filter((row) => !again.has(keyOf(row.look))), ...fresh].sort(bySetAndName);
}

/**
 * The set that a map known by its picture alone belongs to: its name begins with the set's, and the
 * size is the same.
 */
function joinedBy(look: FileLook, others: FileLook[]): string | undefined {
  if (look.is_named || look.kind === "photo" || !look.readable) return undefined;
  const own = folded(stemOf(look));
  const fitting = others.filter(
    (other) =>
      other.is_named &&
      other.readable &&
      other.width === look.width &&
      other.height === look.height &&
      own.startsWith(`${folded(other.set_name)} `),
  );
  return fitting.map((other) => other.set_name).sort((a, b) => b.length - a.length)[0];
}

/** Rows once every file is there: those that came before the set they belong to join it now. */
export const settledRows = (rows: Row[]): Row[] => {
  const known = rows.map((row) => row.look);
  return rows
    .map((row) =>
      "set_name" in row.byHand
        ? row
        : {
            ...row,
            look: { ...row.look, set_name: joinedBy(row.look, known) ?? row.look.set_name },
          },
    )
    .sort(bySetAndName);
};

/** A row with more of it said by a person. */
export const corrected = (row: Row, said: Said): Row => ({
  ...row,
  look: { ...row.look, ...said },
  byHand: { ...row.byHand, ...said },
});

export type Misfit = { is: "size" | "shape"; width: number; height: number };

const COLORS = ["base_color", "photo", "diffuse", "shaded_color"];
const area = ({ look }: Row) => (look.width ?? 0) * (look.height ?? 0);

/**
 * Rows of another size or shape than their set, which is its color's, else its largest file's;
 * nobody has said yet how they fit.
 */
export function misfitsOf(rows: Row[]): Map<Row, Misfit> {
  const found = new Map<Row, Misfit>();
  const sets = Map.groupBy(rows.filter(isUsable), (row) => row.look.set_name);
  for (const files of sets.values()) {
    const colored = files.filter((row) =>
      Object.values(row.look.reads ?? {}).some((key) => COLORS.includes(key)),
    );
    const lead = (colored.length ? colored : files).reduce((a, b) =>
      area(b) > area(a) ? b : a,
    ).look;
    const [width, height] = [lead.width ?? 1, lead.height ?? 1];
    for (const row of files) {
      const [w, h] = [row.look.width ?? 1, row.look.height ?? 1];
      if ((w === width && h === height) || row.look.fit || row.look.is_constant) continue;
      found.set(row, {
        is: Math.abs(w * height - h * width) <= Math.max(width, height) ? "size" : "shape",
        width,
        height,
      });
    }
  }
  return found;
}

export const keyOf = (look: FileLook) => `${look.sha256} ${look.name}`;

/** Rows in which a file of several pictures is taken as it is seen, or by its layers, which are given. */
export const withMerged = (rows: Row[], document: FileLook): Row[] =>
  rows
    .filter(({ look }) => look.layer_of !== keyOf(document))
    .map((row) => (keyOf(row.look) === keyOf(document) ? { ...row, isByLayers: false } : row));

export const withLayersOf = (rows: Row[], document: FileLook, layers: FileLook[]): Row[] =>
  withLooks(
    rows.map((row) => (keyOf(row.look) === keyOf(document) ? { ...row, isByLayers: true } : row)),
    layers,
  );

export const setsOf = (rows: Row[]) => [
  ...new Set(rows.filter(isUsable).map((row) => row.look.set_name)),
];

/** What a file is whose channels are read so: one map, or several. */
export const wholeOf = (reads: Record<string, string>): string =>
  Object.keys(reads).length === 1 ? Object.values(reads)[0] : (reads.RGB ?? "packed");

/** Channels of a file taken for one map as a whole. */
export function readsOf(kind: string, letters: string): Record<string, string> {
  if (kind === "unknown" || kind === "packed") return {};
  if (kind === "opacity" && letters.endsWith("A")) return { A: "opacity" };
  return { [letters.startsWith("RGB") ? "RGB" : "L"]: kind };
}

/** How a file that holds what a better one holds too stands to it. */
function relationOf(better: Row, one: Row): Rival["is"] {
  if (stemOf(better.look) === stemOf(one.look)) return "copy";
  return qualityOf(better) === qualityOf(one) ? "equal" : "worse";
}

/** Which rows hold what a better row of their set holds too. */
export function rivalsOf(rows: Row[], quantities: Quantity[]): Map<Row, Rival> {
  const row = new Map(quantities.map((q) => [q.key, q]));
  const held = new Map<string, Row>();
  const rivals = new Map<Row, Rival>();
  for (const one of rows.filter(isUsable).sort(byQuality)) {
    const keys = Object.values(one.look.reads ?? {});
    const place = (key: string) => `${one.look.set_name} ${row.get(key)?.master ?? key}`;
    const lost = keys.filter((key) => held.has(place(key)));
    if (lost.length) {
      const better = sure(held.get(place(lost[0])), lost[0]);
      rivals.set(one, {
        name: better.look.name,
        maps: lost.map((key) => row.get(key)?.title ?? key),
        is: relationOf(better, one),
      });
    }
    for (const key of keys) if (!held.has(place(key))) held.set(place(key), one);
  }
  return rivals;
}

const stemOf = (look: FileLook) => look.name.replace(/\.\w+$/, "");
const qualityOf = (row: Row) => JSON.stringify(row.look.quality ?? []);

function byQuality(a: Row, b: Row): number {
  const [one, two] = [a.look.quality ?? [], b.look.quality ?? []];
  const k = one.findIndex((value, k) => value !== two[k]);
  return k < 0 ? (b.look.confidence ?? 0) - (a.look.confidence ?? 0) : one[k] - two[k];
}

/**
 * What is sent of a row; channels that a better row gives are left out. Null when nothing is left.
 */
export function entryOf(
  { look }: Row,
  rival: Rival | undefined,
  quantities: Quantity[],
): IntakeEntry | null {
  const title = new Map(quantities.map((q) => [q.key, q.title]));
  const reads = Object.fromEntries(
    Object.entries(look.reads ?? {}).filter(
      ([, key]) => !rival?.maps.includes(title.get(key) ?? key),
    ),
  );
  if (!Object.keys(reads).length) return null;
  const spans = Object.fromEntries(
    Object.entries(look.spans ?? {}).filter(([letters]) => letters in reads),
  );
  return {
    sha256: look.sha256,
    name: look.name,
    kind: look.kind ?? "unknown",
    reads,
    spans,
    green: look.green === "unsure" ? null : look.green,
    tiles: look.tiles,
    place: look.place,
    fit: look.fit,
  };
}
