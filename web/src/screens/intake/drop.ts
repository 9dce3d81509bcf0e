/** Every file of a drop, those inside of dropped folders too. */
export async function filesOf(items: DataTransferItemList): Promise<File[]> {
  const entries = [...items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  return (await Promise.all(entries.map(filesUnder))).flat();
}

async function filesUnder(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))];
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject)); // at most 100 at a time
    if (!some.length) break;
    found.push(...some);
  }
  return (await Promise.all(found.map(filesUnder))).flat();
}
