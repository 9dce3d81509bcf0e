import type { TextureSet } from "../../api/client";
import type { Assayed } from "../../api/queries";

/** What a tray can be narrowed down to, besides words. */
export const FILTERS = [
  ["stops", "Something stops"],
  ["checks", "Something to check"],
  ["derived", "Maps derived"],
  ["absent", "Base color, normal or roughness absent"],
  ["undelivered", "Not delivered as it is"],
  ["tiles", "In tiles"],
] as const;

export type Filter = (typeof FILTERS)[number][0];
export type Known = { found: Assayed[]; delivered: Map<string, number> };

const NEEDED = ["base_color", "normal", "roughness"];

const PASSES: Record<Filter, (set: TextureSet, known: Known) => boolean> = {
  stops: (set, { found }) => found.some((r) => r.set.id === set.id && r.finding.grade === "stop"),
  checks: (set, { found }) => found.some((r) => r.set.id === set.id && r.finding.grade === "look"),
  derived: (set) => set.masters.some(({ origin }) => origin === "derived"),
  absent: (set) =>
    set.masters.some(({ key, origin }) => NEEDED.includes(key) && origin === "absent"),
  undelivered: (set, { delivered }) => delivered.get(set.id) !== set.head,
  tiles: (set) => set.tiles.length > 0,
};

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
      filters.every((filter) => PASSES[filter](set, known))
    );
  });
}

/** The selection after a press on one card: alone, one more or less, or all from the last one to it. */
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
