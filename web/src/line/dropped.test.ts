import { describe, expect, it } from "vitest";
import { chosen, filesOf } from "./dropped";

const file = (name: string) => new File([name], name);
const leaf = (name: string) => ({
  isFile: true,
  name,
  file: (resolve: (one: File) => void) => resolve(file(name)),
});
/** A folder as browsers give it: its entries a hundred at a time, and then none. */
const folder = (name: string, inside: object[]) => ({
  isFile: false,
  isDirectory: true,
  name,
  createReader: () => {
    const left = [...inside];
    return { readEntries: (resolve: (some: object[]) => void) => resolve(left.splice(0, 100)) };
  },
});
const items = (...rows: object[]) => rows as unknown as DataTransferItemList;
const entryOf = (entry: object | null, own: File | null = null) => ({
  kind: "file",
  webkitGetAsEntry: () => entry,
  getAsFile: () => own,
});
const said = async (list: DataTransferItemList) =>
  (await filesOf(list)).map(({ file, folder }) => `${folder}/${file.name}`);

describe("files of a drop", () => {
  it("are those of all folders below, each with the folders it lay in", async () => {
    const wardrobe = folder("wardrobe", [
      leaf("note.txt"),
      folder("été", [leaf("silk a.png"), folder("deep", [leaf("x.png")])]),
    ]);
    expect(await said(items(entryOf(wardrobe), entryOf(leaf("lace.png"))))).toEqual([
      "wardrobe/note.txt",
      "wardrobe/été/silk a.png",
      "wardrobe/été/deep/x.png",
      "/lace.png",
    ]);
  });

  it("are more than a browser gives at once, without those that are hidden", async () => {
    const many = Array.from({ length: 230 }, (_, k) => leaf(`bolt${k}.png`));
    const found = await said(items(entryOf(folder("bolts", [leaf(".thumbs"), ...many]))));
    expect(found.length).toBe(230);
    const beside = [leaf("Thumbs.db"), leaf(".DS_Store"), leaf("lace.png")].map((one) =>
      entryOf(one),
    );
    expect(await said(items(...beside))).toEqual(["/lace.png"]);
    expect(found.at(-1)).toBe("bolts/bolt229.png");
  });

  it("are had where the browser knows no entries, and words are none", async () => {
    const pasted = entryOf(null, file("pasted.png"));
    expect(await said(items({ kind: "string" }, pasted))).toEqual(["/pasted.png"]);
  });

  it("know their folders when a folder was chosen", () => {
    const lying = (place: string, name = "a.png") =>
      Object.defineProperty(file(name), "webkitRelativePath", { value: place });
    const found = chosen([lying("", "desktop.ini"), lying("coats/__MACOSX/a.png"), lying("")]);
    expect(found.length).toBe(1);
    expect(chosen([lying("coats/linen/a.png"), lying("")]).map(({ folder }) => folder)).toEqual([
      "coats/linen",
      "",
    ]);
  });
});
