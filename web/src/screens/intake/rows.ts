import type { FileLook, IntakeEntry, SetReading } from "../../api/client";

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

/** Whether a row is a picture that is meant, whatever it shows. */
export const isWritable = (row: Row) => row.look.readable && !row.isLeftOut && !row.isByLayers;

export const isUsable = (row: Row) =>
  isWritable(row) && row.look.kind !== "unknown" && Object.keys(row.look.reads ?? {}).length > 0;

/**
 * Whether a file is no picture, nor called as one: what libraries lay beside their maps, and a mesh
 * in a format that is not read where another mesh is.
 */
export const isBeside = ({ look }: Row, hasMesh = false) =>
  look.is_passed_over || (hasMesh && look.is_foreign_mesh);

/**
 * Rows with new looks among them, the last of each file. A file read again keeps what a person
 * corrected.
 */
export function withLooks(rows: Row[], looks: FileLook[]): Row[] {
  const before = new Map(rows.map((row) => [keyOf(row.look), row]));
  const last = new Map(looks.map((look) => [keyOf(look), look]));
  const fresh = [...last.values()].map((look) => {
    const { byHand, isLeftOut, isByLayers } = before.get(keyOf(look)) ?? {
      byHand: {},
      isLeftOut: false,
      isByLayers: look.is_by_layers,
    };
    return { look: { ...look, ...byHand }, byHand, isLeftOut, isByLayers };
  });
  const again = new Set(fresh.map(({ look }) => keyOf(look)));
  return [...rows.filter((row) => !again.has(keyOf(row.look))), ...fresh];
}

/** A look under the name that its set was given before it came, if it was. */
export function underItsName(look: FileLook, given: ReadonlyMap<string, string>): FileLook {
  let name = look.set_name;
  for (let k = 0; k < given.size; k++) name = given.get(name) ?? name; // a set may be renamed again
  return { ...look, set_name: name };
}

/** A row with more of it said by a person. */
export const corrected = (row: Row, said: Said): Row => ({
  ...row,
  look: { ...row.look, ...said },
  byHand: { ...row.byHand, ...said },
});

/** Rows read as the others of their sets say, where nobody has said what they are. */
export function withReadingsBySet(rows: Row[], said: ReadonlyMap<string, SetReading>): Row[] {
  const isSaid = (row: Row) => said.has(keyOf(row.look)) && !("kind" in row.byHand);
  if (!rows.some(isSaid)) return rows;
  return rows.map((row) => {
    const reading = isSaid(row) && said.get(keyOf(row.look));
    if (!reading) return row;
    const read = { ...reading, because: [reading.because], ...row.byHand };
    return { ...row, look: { ...row.look, ...read } };
  });
}

type Named = Pick<FileLook, "sha256" | "folder" | "name">;
/** Tells files apart; copies of one in several folders may each be of another set. */
export const keyOf = ({ sha256, folder, name }: Named) => `${sha256} ${folder ?? ""}/${name}`;
/** What its layers call a file that holds several. */
export const documentOf = ({ sha256, name }: FileLook) => `${sha256} ${name}`;

/**
 * Rows in which a file of several pictures is taken as it is seen, or by its layers, which are
 * given.
 */
export const withMerged = (rows: Row[], document: FileLook): Row[] =>
  rows
    .filter(({ look }) => look.layer_of !== documentOf(document))
    .map((row) => (keyOf(row.look) === keyOf(document) ? { ...row, isByLayers: false } : row));

export const withLayersOf = (rows: Row[], document: FileLook, layers: FileLook[]): Row[] =>
  withLooks(
    rows.map((row) => (keyOf(row.look) === keyOf(document) ? { ...row, isByLayers: true } : row)),
    layers,
  );

/**
 * Rows that are left once some were taken in; a document goes with the last of its layers, and what
 * lies beside with the last picture.
 */
export function withoutTaken(rows: Row[], gone: Set<Row>): Row[] {
  const left = rows.filter((row) => !gone.has(row));
  const parents = new Set(left.map(({ look }) => look.layer_of));
  const kept = left.filter((row) => !row.isByLayers || parents.has(documentOf(row.look)));
  return gone.size > 0 && kept.every((row) => isBeside(row)) ? [] : kept;
}

/** What a file is whose channels are read so: one map, or several. */
export const wholeOf = (reads: Record<string, string>): string =>
  Object.keys(reads).length === 1 ? Object.values(reads)[0] : (reads.RGB ?? "packed");

/** Channels of a file taken for one map as a whole. */
export function readsOf(kind: string, letters: string): Record<string, string> {
  if (kind === "unknown" || kind === "packed") return {};
  if (kind === "opacity" && letters.endsWith("A")) return { A: "opacity" };
  return { [letters.startsWith("RGB") ? "RGB" : "L"]: kind };
}
