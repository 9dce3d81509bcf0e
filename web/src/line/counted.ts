import type { Plan, TextureSet } from "../api/client";
import { lastingSaid } from "../parts/lasting";

type File = Plan["files"][number];

/**
 * Whether something lies in its place that is not ours to touch, and nobody has said what to do.
 */
export const asks = (file: File): boolean =>
  file.left_out === null &&
  (file.disk === "by-hand" || file.disk === "foreign") &&
  file.answer === null;

/** Whether a file is written now. */
export const goes = (file: File): boolean =>
  file.left_out === null &&
  file.disk !== "same" &&
  ((file.disk !== "by-hand" && file.disk !== "foreign") || file.answer === "replace");

/** What a delivery comes to: files that go, those that wait or ask, and the most they can take. */
export function countOf(plans: Plan[]) {
  const files = plans.flatMap((plan) =>
    plan.files.map((file) => ({ file, place: `${plan.set}/${plan.target}/${file.name}` })),
  );
  const going = new Set(files.filter(({ file }) => goes(file)).map(({ place }) => place));
  const bytes = files
    .filter(({ file }) => goes(file))
    .reduce((sum, { file }) => sum + file.memory_plain, 0);
  return {
    going: going.size,
    bytes,
    same: files.filter(({ file }) => file.left_out === null && file.disk === "same").length,
    waits: files.filter(({ file }) => file.left_out === "waits").map(({ file }) => file),
    asks: files.filter(({ file }) => asks(file)).length,
    replaced: files.filter(({ file }) => goes(file) && file.disk === "changed").length,
    seconds: plans.reduce((sum, plan) => sum + (plan.seconds ?? 0), 0),
  };
}

export type Count = ReturnType<typeof countOf>;

/** What stands on the button: "Deliver 3 files, up to 9.4 MB". */
export function counted({ going, bytes }: Count, verb = "Deliver"): string {
  if (!going) return "Nothing to write";
  return `${verb} ${going} ${going === 1 ? "file" : "files"}, up to ${bytesSaid(bytes)}`;
}

export function bytesSaid(bytes: number): string {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`;
  return `${Math.max(bytes / 1e6, 0.1).toFixed(bytes < 1e7 ? 1 : 0)} MB`;
}

/** That writing what goes will take long, where it will. */
export const deliveringSaid = ({ seconds, going }: Count): string | null =>
  going ? lastingSaid(seconds) : null;

/** What waits, in a sentence: "1 file waits for base color". */
export function waitingSaid({ waits }: Count): string | null {
  const whys = [...new Set(waits.map(({ why }) => why))];
  if (!waits.length) return null;
  const count = waits.length === 1 ? "1 file waits" : `${waits.length} files wait`;
  if (whys.length > 1 || !whys[0]) return `${count}; the list says for what`;
  return `${count}${whys[0].replace(/^waits/, "")}`;
}

/** The size of what is delivered in words, where it is not each set's own size as it came. */
export function sizeSaid(sets: TextureSet[], size: number | null): string {
  if (size !== null) return `at most ${size} px`;
  const sizes = new Set(sets.map(({ recipe: { facts } }) => `${facts.width} × ${facts.height}`));
  return sizes.size === 1 ? `${[...sizes][0]} px` : "each at its own size";
}
