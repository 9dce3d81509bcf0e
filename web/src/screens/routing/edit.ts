import { type QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { api, type FormatRow, type Quantity, settled, type Target } from "../../api/client";
import { type Depth, depthKey } from "../../parts/stored";
import { sure } from "../../parts/sure";

export type TargetFile = Target["files"][number];
export type Channel = TargetFile["channels"][string];
export type Letter = "L" | "R" | "G" | "B" | "A";

/** What a file's channels can be. */
export const LETTERS = ["L", "LA", "RGB", "RGBA"] as const;

const THREE: Record<string, Channel["component"][]> = { normal: ["x", "y", "z"] };

/** Parts of a quantity that a channel can hold. */
export const componentsOf = (quantity: Quantity): Channel["component"][] =>
  quantity.channels === 1 ? ["v"] : (THREE[quantity.key] ?? ["r", "g", "b", "luminance"]);

/**
 * The part of a quantity that goes to a channel by itself: red to R and so on, the brightness of a
 * color to a gray.
 */
export function partFor(quantity: Quantity, letter: string): Channel["component"] {
  const parts = componentsOf(quantity),
    at = "RGB".indexOf(letter);
  if (parts.length === 1) return parts[0];
  return at >= 0 ? parts[at] : (parts[3] ?? parts[2]);
}

export const BLACK: Channel = {
  quantity: null,
  component: "v",
  invert: false,
  range: [0, 1],
  constant: 0,
  fill: null,
};

export const feeding = (quantity: Quantity, letter: string): Channel => ({
  ...BLACK,
  quantity: quantity.key,
  component: partFor(quantity, letter),
  constant: null,
});

export const withFile = (
  target: Target,
  role: string,
  change: (file: TargetFile) => TargetFile,
): Target => ({
  ...target,
  files: target.files.map((file) => (file.role === role ? change(file) : file)),
});

export const withChannel = (
  target: Target,
  role: string,
  letter: string,
  channel: Channel,
): Target =>
  withFile(target, role, (file) => ({
    ...file,
    channels: { ...file.channels, [letter]: channel },
  }));

/** The file with other channels; those that stay keep what they hold, new ones hold black. */
export function withLetters(file: TargetFile, letters: string): TargetFile {
  const old: Partial<Record<string, Channel>> = {
    ...file.channels,
    ...(file.channels.L && { R: file.channels.L }),
    ...(file.channels.R && { L: file.channels.R }),
  };
  return {
    ...file,
    channels: Object.fromEntries([...letters].map((letter) => [letter, old[letter] ?? BLACK])),
  };
}

const RUNS_ON = /[\p{L}\p{N}]/u;

/** A name with one more part, apart from the one before where the two would run into one word. */
export function withPart(name: TargetFile["name"], part: TargetFile["name"][number]) {
  const before = name.at(-1);
  const isWord = (one: typeof part, at: number) =>
    typeof one !== "string" || RUNS_ON.test(one.at(at) ?? "");
  const isJoined = before !== undefined && isWord(before, -1) && isWord(part, 0);
  return [...name, ...(isJoined ? ["_"] : []), part];
}

/** What a format holds. */
export const rowOf = (formats: FormatRow[], key: TargetFile["format"]): FormatRow =>
  sure(
    formats.find((row) => row.key === key),
    key,
  );

/**
 * A file stored in another format: at its depth, or the nearest that the format holds. Colors become
 * linear light where the depth becomes float, as readers expect, and sRGB where it no longer is.
 */
export function withFormat(file: TargetFile, { key, nearest, is_layered }: FormatRow): TargetFile {
  const kept = { ...file, format: key, layer_of: is_layered ? file.layer_of : "" };
  const depth = nearest.find(({ stored }) => depthKey(stored) === depthKey(file));
  return withDepth(kept, sure(depth, depthKey(file)).held);
}

/** A file at another depth. */
export function withDepth(file: TargetFile, { depth, sample }: Depth): TargetFile {
  const is8 = depth === 8 && sample === "uint";
  const made = { ...file, depth, sample, dither: is8 && file.dither };
  if (sample === file.sample || file.color === "data") return made;
  return sample === "float"
    ? { ...made, color: "linear" }
    : { ...made, color: "srgb", primaries: "rec709" };
}

/** The target with something said of every file of it. */
export const withEveryFile = (target: Target, part: Partial<TargetFile>): Target => ({
  ...target,
  files: target.files.map((file) => ({ ...file, ...part })),
});

export const withEveryFormat = (target: Target, format: FormatRow): Target => ({
  ...target,
  files: target.files.map((file) => withFormat(file, format)),
});

const freeRole = (target: Target, stem: string): string => {
  const taken = new Set(target.files.map((file) => file.role));
  const roles = [stem, ...target.files.map((_, k) => `${stem}_${k + 2}`)];
  return sure(
    roles.find((role) => !taken.has(role)),
    "a free role",
  );
};

/**
 * One more file that holds a quantity; its name and format follow its siblings, its word the map.
 */
export function withNewFile(target: Target, quantity: Quantity): Target {
  const sibling = target.files[0];
  const letters = quantity.channels === 1 ? ["L"] : ["R", "G", "B"];
  const isColor = quantity.channels === 3 && quantity.key !== "normal";
  const short = target.files.every((file) => file.word.length <= 3);
  const word = short
    ? quantity.title
        .split(/\W+/)
        .map((part) => part[0]?.toUpperCase())
        .join("")
    : quantity.title.toLowerCase().replace(/\W+/g, "");
  const colorOf = sibling.color === "data" ? "srgb" : sibling.color;
  const file: TargetFile = {
    ...sibling,
    role: freeRole(target, quantity.key),
    title: quantity.title,
    word,
    use: `${quantity.title.toLowerCase()} input`,
    required: "",
    color: isColor ? colorOf : "data",
    channels: Object.fromEntries(letters.map((letter) => [letter, feeding(quantity, letter)])),
  };
  return { ...target, files: [...target.files, file] };
}

/** A file's alpha as a file of its own: for the same memory two more channels have room in it. */
export function withAlphaApart(target: Target, role: string, title: string): Target {
  const file = sure(
    target.files.find((f) => f.role === role),
    role,
  );
  const { A, ...rest } = file.channels;
  const apart: TargetFile = {
    ...file,
    role: freeRole(target, `${role}_alpha`),
    title,
    word: title.toLowerCase().replace(/\W+/g, ""),
    use: `${title.toLowerCase()} input`,
    color: "data",
    channels: { L: A },
  };
  const without = withFile(target, role, (f) => ({ ...f, channels: rest }));
  return { ...without, files: [...without.files, apart] };
}

export const withoutFile = (target: Target, role: string): Target => ({
  ...target,
  files: target.files.filter((file) => file.role !== role),
  documents: target.documents.map((document) => ({
    ...document,
    inputs: Object.fromEntries(Object.entries(document.inputs).filter(([, at]) => at !== role)),
  })),
});

const MAP_WORDS: Record<string, { long: string; short: string }> = {
  base_color: { long: "basecolor", short: "BC" },
  normal: { long: "normal", short: "N" },
  roughness: { long: "roughness", short: "R" },
  metallic: { long: "metallic", short: "M" },
  occlusion: { long: "occlusion", short: "AO" },
  height: { long: "height", short: "H" },
  opacity: { long: "opacity", short: "O" },
  emissive: { long: "emissive", short: "E" },
  gloss: { long: "gloss", short: "G" },
  diffuse: { long: "diffuse", short: "D" },
  specular: { long: "specular", short: "S" },
};

/**
 * The usual word for every file that holds one map; alpha does not count, and files of several keep
 * the word they have.
 */
export const withMapWords = (target: Target, way: "long" | "short"): Target => ({
  ...target,
  files: target.files.map((file) => {
    const keys = new Set(
      Object.entries(file.channels)
        .filter(([letter]) => letter !== "A")
        .map(([, channel]) => channel?.quantity ?? ""),
    );
    const word = keys.size === 1 ? MAP_WORDS[[...keys][0]]?.[way] : undefined;
    return word ? { ...file, word } : file;
  }),
});

/** A name with one part at another place. */
export function movedPart<T>(name: T[], from: number, to: number): T[] {
  const rest = name.filter((_, k) => k !== from);
  return to < 0 || to >= name.length ? name : [...rest.slice(0, to), name[from], ...rest.slice(to)];
}

type Row = { target: Target; is_own: boolean };

/**
 * The list of targets with one of one's own in its new form, which may be its first, so that it is
 * there before anybody goes to it. While later changes are on their way, a row that is there stays:
 * they stand in it already.
 */
const keepRow = (queries: QueryClient, before: string, made: Target, isLast: boolean) =>
  queries.setQueryData<Row[]>(["targets"], (rows) => {
    const row = { target: made, is_own: true };
    if (!rows?.some((r) => r.target.key === before)) return rows && [row, ...rows];
    return isLast || made.key !== before
      ? rows.map((r) => (r.target.key === before ? row : r))
      : rows;
  });

/**
 * Changes of a target, one after another. The first change of a shipped one makes a copy of one's
 * own, which is then the one in use.
 */
export function useTargetEdit(target: Target, isOwn: boolean, onKey: (key: string) => void) {
  const queries = useQueryClient();
  // what quick hands change next, before the screen has it
  const latest = useRef<{ from: string; own: Target } | null>(null);
  const lately = () =>
    latest.current && [latest.current.from, latest.current.own.key].includes(target.key)
      ? latest.current.own
      : null;
  const isLast = () => queries.isMutating({ mutationKey: ["target"] }) <= 1;
  return useMutation({
    mutationKey: ["target"],
    scope: { id: "target" },
    onMutate: async (change: (target: Target) => Target) => {
      // an answer asked for before would bring the older table back
      await queries.cancelQueries({ queryKey: ["targets"] });
      if (isOwn)
        queries.setQueryData<Row[]>(["targets"], (rows) =>
          rows?.map((row) =>
            row.target.key === target.key ? { ...row, target: change(row.target) } : row,
          ),
        );
    },
    mutationFn: async (change: (target: Target) => Target) => {
      const own =
        lately() ??
        (isOwn
          ? target
          : await settled(api.POST("/api/targets", { body: { copy_of: target.key, title: "" } })));
      latest.current = { from: target.key, own };
      const made = await settled(
        api.PUT("/api/targets/{key}", {
          params: { path: { key: own.key } },
          body: { expects: own.version, target: change(own) },
        }),
      );
      keepRow(queries, own.key, made, isLast());
      latest.current = { from: target.key, own: made };
      return made;
    },
    onSuccess: (made) => onKey(made.key),
    onSettled: async () => {
      // also after a refusal: a copy may have been made before it
      if (!isLast()) return; // the last one asks
      await queries.invalidateQueries({ queryKey: ["targets"] });
      await queries.invalidateQueries({ queryKey: ["plans"] });
    },
  });
}

/** The target with one channel inverted, or no longer so. */
export function withHoleTurned(target: Target, { role, letter }: { role: string; letter: string }) {
  const file = sure(
    target.files.find((f) => f.role === role),
    role,
  );
  const channel = sure(new Map(Object.entries(file.channels)).get(letter), letter);
  if (!channel.quantity) return target;
  return withChannel(target, role, letter, { ...channel, invert: !channel.invert });
}
