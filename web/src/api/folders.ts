/** The folders that dropped files came in, which the browser tells once and a file forgets. */
const folders = new WeakMap<File, string>();

export const cameIn = (file: File, folder: string): unknown => folders.set(file, folder);

/** The path of folders that a file came in, "" when it came by itself. */
export const folderOf = (file: File): string => folders.get(file) ?? "";

/** A path of folders, further down. */
export const below = (folder: string, inside: string): string =>
  [folder, inside].filter(Boolean).join("/");
