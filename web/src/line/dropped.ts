import { below, cameIn } from "../api/folders";

/** A file with the path of folders it lay in, "" when it was dropped by itself. */
export type Dropped = { file: File; folder: string };

const placed = (file: File, folder: string): Dropped => {
  cameIn(file, folder);
  return { file, folder };
};

/** Every file of a drop, those inside of dropped folders too. */
export async function filesOf(items: DataTransferItemList): Promise<Dropped[]> {
  const found = [...items]
    .filter(({ kind }) => kind === "file")
    .map((item) => ({ entry: item.webkitGetAsEntry(), file: item.getAsFile() }));
  const meant = found.filter(({ entry, file }) => !isBeside(entry?.name ?? file?.name ?? ""));
  const dropped = meant.map(({ entry, file }) =>
    entry ? filesUnder(entry, "") : Promise.resolve(file ? [placed(file, "")] : []),
  );
  return (await Promise.all(dropped)).flat();
}

/** Chosen files; the browser tells their folders only when a folder was chosen. */
export const chosen = (files: Iterable<File>): Dropped[] =>
  [...files]
    .filter(
      ({ name, webkitRelativePath }) => !(webkitRelativePath || name).split("/").some(isBeside),
    )
    .map((file) => placed(file, file.webkitRelativePath.split("/").slice(0, -1).join("/")));

/** Whether the system keeps it for itself: nobody meant to bring it. */
const isBeside = (name: string) =>
  name.startsWith(".") || ["__macosx", "thumbs.db", "desktop.ini"].includes(name.toLowerCase());

const isFile = (entry: FileSystemEntry): entry is FileSystemFileEntry => entry.isFile;
const isFolder = (entry: FileSystemEntry): entry is FileSystemDirectoryEntry => entry.isDirectory;

async function filesUnder(entry: FileSystemEntry, folder: string): Promise<Dropped[]> {
  if (isFile(entry))
    return [placed(await new Promise<File>((got, failed) => entry.file(got, failed)), folder)];
  if (!isFolder(entry)) return [];
  const reader = entry.createReader();
  const found: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    ); // at most 100 at a time
    if (!some.length) break;
    found.push(...some);
  }
  return (
    await Promise.all(
      found
        .filter((inside) => !isBeside(inside.name))
        .map((inside) => filesUnder(inside, below(folder, entry.name))),
    )
  ).flat();
}
