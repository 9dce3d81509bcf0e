import { api, type IntakeEntry, settled, type TextureSet } from "../../api/client";
import { entryOf, type Line, setOf } from "./arrangement";
import { isUsable, type Row } from "./rows";

export type Way = "add" | "replace";

/** One set to be made, or one that is there and gets more files. */
export type Group = {
  name: string;
  lines: Line[];
  /** The set of that name that is there already, and what its new files do. */
  there: TextureSet | undefined;
  way: Way | undefined;
  /** Two files hold the same map, and a person has to choose. */
  isUnsettled: boolean;
};

/** Lines by set, in their order; those that go to none are under "". */
export function groupsOf(
  lines: Line[],
  sets: TextureSet[],
  ways: Record<string, Way | undefined>,
): Group[] {
  const groups = new Map<string, Line[]>();
  for (const line of lines) {
    const name = line.row.look.readable ? setOf(line) : "";
    groups.set(name, [...(groups.get(name) ?? []), line]);
  }
  return [...groups].map(([name, own]) => ({
    name,
    lines: own,
    there: sets.find((set) => set.name.toLowerCase() === name.toLowerCase()),
    way: ways[name],
    isUnsettled: own.some(({ place }) => place?.rival?.relation === "rival"),
  }));
}

export const entriesOf = (group: Group): IntakeEntry[] =>
  group.lines.filter(({ row }) => isUsable(row)).flatMap((line) => entryOf(line) ?? []);

/** How many files go on with these groups: each tile of a map is one. */
export const filesIn = (groups: Group[]): number =>
  groups
    .flatMap(entriesOf)
    .reduce((sum, { beside }) => sum + 1 + Object.keys(beside ?? {}).length, 0);

/** Longer side of sets that are made for a mesh alone. */
export const NEW_PX = 2048;

/** The size of what goes on, in words; `fresh` sets are made for meshes alone. */
export function sizesOf(groups: Group[], fresh: number): string {
  const sizes = groups.flatMap(({ lines }) =>
    lines.map(({ row: { look } }) => `${look.width} × ${look.height}`),
  );
  const some = new Set(sizes).size === 1 ? `${sizes[0]} px` : "each set at its own size";
  const made = `${groups.length ? "without files" : "each"} ${NEW_PX} px`;
  return [...(groups.length ? [some] : []), ...(fresh ? [made] : [])].join(", ");
}

/** Whether a group can be taken in as it stands. */
export const isReady = (group: Group): boolean =>
  group.name !== "" &&
  !group.isUnsettled &&
  (group.there === undefined || group.way !== undefined) &&
  entriesOf(group).length > 0;

/** Rows that are gone from the table once their group was taken in. */
export const rowsOf = (group: Group): Row[] =>
  group.lines
    .filter(({ row }) => isUsable(row))
    .flatMap(({ row, tiles }) => [row, ...tiles.map((tile) => tile.row)]);

/** Maps of a set that its files give already, and that a group has a file for too. */
export function alreadyGiven(group: Group): string[] {
  const readings = entriesOf(group).flatMap(({ reads }) => Object.values(reads ?? {}));
  return [...new Set(readings.flatMap((reading) => group.there?.held[reading] ?? []))];
}

/**
 * Make the set, with what its mesh's material has one value for, or give the one that is there its
 * files.
 */
export const takeIn = (
  project: string,
  group: Group,
  values: Record<string, number[]>,
): Promise<TextureSet> =>
  group.there && group.way
    ? settled(
        api.POST("/api/sets/{set_id}/files", {
          params: { path: { set_id: group.there.id } },
          body: { expects: group.there.head, entries: entriesOf(group), way: group.way },
        }),
      )
    : settled(
        api.POST("/api/projects/{project}/sets", {
          params: { path: { project } },
          body: { name: group.name, entries: entriesOf(group), values },
        }),
      );
