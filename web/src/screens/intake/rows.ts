import type { FileLook, IntakeEntry, Quantity } from "../../api/client";

/** One dropped file as it stands: what it is said to be, and whether a person left it out. */
export type Row = { look: FileLook; isLeftOut: boolean };

/** What another row holds already: by a file of the same name in another format, stored better, or an equal a person has to choose from. */
export type Rival = { name: string; maps: string[]; is: "copy" | "worse" | "equal" };

export const isUsable = (row: Row) => row.look.readable && row.look.kind !== "unknown" && Object.keys(row.look.reads ?? {}).length > 0 && !row.isLeftOut;

const folded = (name: string) => name.replace(/[\s_.-]+/g, " ").toLowerCase();
const bySetAndName = (a: Row, b: Row) => a.look.set_name.localeCompare(b.look.set_name) || a.look.name.localeCompare(b.look.name);

/** Rows with new looks among them; a file dropped again replaces its row, and a set keeps the spelling it came with first. */
export function withLooks(rows: Row[], looks: FileLook[]): Row[] {
  const spelled = new Map(rows.map((row) => [folded(row.look.set_name), row.look.set_name]));
  const fresh = looks.map((look) => {
    const set_name = spelled.get(folded(look.set_name)) ?? look.set_name;
    spelled.set(folded(set_name), set_name);
    return { look: { ...look, set_name }, isLeftOut: false };
  });
  const again = new Set(fresh.map(({ look }) => keyOf(look)));
  return [...rows.filter((row) => !again.has(keyOf(row.look))), ...fresh].sort(bySetAndName);
}

export const keyOf = (look: FileLook) => `${look.sha256} ${look.name}`;

export const setsOf = (rows: Row[]) => [...new Set(rows.filter(isUsable).map((row) => row.look.set_name))];

/** Channels of a file taken for one map as a whole. */
export function readsOf(kind: string, letters: string): Record<string, string> {
  if (kind === "unknown" || kind === "packed") return {};
  if (kind === "opacity" && letters.endsWith("A")) return { A: "opacity" };
  return { [letters.startsWith("RGB") ? "RGB" : "L"]: kind };
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
      const better = held.get(place(lost[0]))!;
      rivals.set(one, { name: better.look.name, maps: lost.map((key) => row.get(key)?.title ?? key), is: stemOf(better) === stemOf(one) ? "copy" : qualityOf(better) === qualityOf(one) ? "equal" : "worse" });
    }
    for (const key of keys) if (!held.has(place(key))) held.set(place(key), one);
  }
  return rivals;
}

const stemOf = (row: Row) => row.look.name.replace(/\.\w+$/, "");
const qualityOf = (row: Row) => JSON.stringify(row.look.quality ?? []);

function byQuality(a: Row, b: Row): number {
  const [one, two] = [a.look.quality ?? [], b.look.quality ?? []];
  const k = one.findIndex((value, k) => value !== two[k]);
  return k < 0 ? (b.look.confidence ?? 0) - (a.look.confidence ?? 0) : one[k] - two[k];
}

/** What is sent of a row; channels that a better row gives are left out. Null when nothing is left. */
export function entryOf({ look }: Row, rival: Rival | undefined, quantities: Quantity[]): IntakeEntry | null {
  const title = new Map(quantities.map((q) => [q.key, q.title]));
  const reads = Object.fromEntries(Object.entries(look.reads ?? {}).filter(([, key]) => !rival?.maps.includes(title.get(key) ?? key)));
  if (!Object.keys(reads).length) return null;
  const spans = Object.fromEntries(Object.entries(look.spans ?? {}).filter(([letters]) => letters in reads));
  return { sha256: look.sha256, name: look.name, kind: look.kind ?? "unknown", reads, spans, green: look.green === "unsure" ? null : look.green, tiles: look.tiles, place: look.place };
}
