import type { Assayed } from "../../api/assays";
import type { TextureSet } from "../../api/client";

/** What a tray can be narrowed down to, besides words. */
export const FILTERS = [
  ["stops", "Something stops"],
  ["checks", "Something to check"],
  ["derived", "Maps derived"],
  ["absent", "Base color, normal or roughness absent"],
  ["undelivered", "Not delivered as it is"],
  ["tiles", "In tiles"],
] as const;

type Plain = (typeof FILTERS)[number][0];
/** By what is found, by a target that it was delivered to, or by what is noted of its source. */
export type Filter = Plain | `to:${string}` | `from:${string}`;
export type Known = {
  found: Assayed[];
  delivered: Map<string, number>; // heads that were delivered last
  targets: Map<string, Set<string>>; // keys of the targets that it was ever delivered to
};

const NEEDED = ["base_color", "normal", "roughness"];

const PASSES: Record<Plain, (set: TextureSet, known: Known) => boolean> = {
  stops: (set, { found }) => found.some((r) => r.set.id === set.id && r.finding.grade === "stop"),
  checks: (set, { found }) => found.some((r) => r.set.id === set.id && r.finding.grade === "look"),
  derived: (set) => set.masters.some(({ origin }) => origin === "derived"),
  absent: (set) =>
    set.masters.some(({ key, origin }) => NEEDED.includes(key) && origin === "absent"),
  undelivered: (set, { delivered }) => delivered.get(set.id) !== set.head,
  tiles: (set) => set.tiles.length > 0,
};

const isPlain = (filter: Filter): filter is Plain => filter in PASSES;

function passes(set: TextureSet, filter: Filter, known: Known): boolean {
  if (filter.startsWith("to:")) return known.targets.get(set.id)?.has(filter.slice(3)) ?? false;
  if (filter.startsWith("from:")) return sourceOf(set) === filter.slice(5);
  return isPlain(filter) && PASSES[filter](set, known);
}

const sourceOf = (set: TextureSet) => set.recipe.facts.origin ?? "";

/** Every filter that would narrow these sets down, with its title. */
export function filtersOf(
  sets: TextureSet[],
  { targets }: Known,
  titleOf: (target: string) => string,
): [Filter, string][] {
  const delivered = new Set(sets.flatMap(({ id }) => [...(targets.get(id) ?? [])]));
  const sources = new Set(sets.map(sourceOf).filter(Boolean));
  return [
    ...FILTERS.map(([key, title]): [Filter, string] => [key, title]),
    ...[...delivered].map((key): [Filter, string] => [`to:${key}`, `To ${titleOf(key)}`]),
    ...[...sources].map((name): [Filter, string] => [`from:${name}`, `From ${name}`]),
  ];
}

/** In which order a tray lies. */
export const SORTS = [
  ["taken", "As taken in"],
  ["name", "By name"],
  ["size", "Largest first"],
  ["found", "What is wrong first"],
] as const;

export type Sort = (typeof SORTS)[number][0];

const texels = ({ recipe: { facts } }: TextureSet) => facts.width * facts.height;
const GRADES = { stop: 10_000, look: 100, note: 1 };

/** Sets in an order; those that are alike in it stay as they were taken in. */
export function sorted(sets: TextureSet[], sort: Sort, { found }: Known): TextureSet[] {
  const weight = new Map<string, number>();
  for (const { set, finding } of found)
    weight.set(set.id, (weight.get(set.id) ?? 0) + GRADES[finding.grade]);
  const ORDERS: Record<Sort, (a: TextureSet, b: TextureSet) => number> = {
    taken: () => 0,
    name: (a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }),
    size: (a, b) => texels(b) - texels(a),
    found: (a, b) => (weight.get(b.id) ?? 0) - (weight.get(a.id) ?? 0),
  };
  return [...sets].sort(ORDERS[sort]);
}

/** Sets whose name, files or license hold every word, and that pass every filter. */
export function sieved(
  sets: TextureSet[],
  sought: string,
  filters: Filter[],
  known: Known,
): TextureSet[] {
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  return sets.filter((set) => {
    const files = Object.values(set.recipe.sources ?? {}).map(({ name }) => name);
    const text = [set.name, ...files, set.recipe.facts.license, set.recipe.facts.origin]
      .join(" ")
      .toLowerCase();
    return (
      words.every((word) => text.includes(word)) &&
      filters.every((filter) => passes(set, filter, known))
    );
  });
}

/**
 * The selection after a press on one card: alone, one more or less, or all from the last one to it.
 */
export function selected(
  now: string[],
  shown: string[],
  id: string,
  last: string | null,
  { isMore, isRange }: { isMore: boolean; isRange: boolean },
): string[] {
  if (isRange && last !== null && shown.includes(last)) {
    const [a, b] = [shown.indexOf(last), shown.indexOf(id)].sort((x, y) => x - y);
    return [...new Set([...(isMore ? now : []), ...shown.slice(a, b + 1)])];
  }
  if (now.includes(id)) return now.filter((one) => one !== id);
  return isMore || now.length > 0 ? [...now, id] : [id];
}
