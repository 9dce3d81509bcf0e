import { below, folderOf } from "./folders";
import type { components } from "./schema";

/** What is in a mesh, and everything that was found on it. */
export type MeshLook = components["schemas"]["MeshLook"];

/** Endings of the meshes that are read, and of what lies beside some of them. */
export const MESH_ENDINGS = ".obj,.ply,.stl,.glb,.gltf";
export const BESIDE_ENDINGS = ".mtl,.bin";

const endsIn = (name: string, endings: string[]) =>
  endings.some((ending) => name.toLowerCase().endsWith(ending));

export const isMeshName = (name: string): boolean => endsIn(name, MESH_ENDINGS.split(","));
/** A file that a mesh names and that is not read by itself. */
export const isBesideMesh = (name: string): boolean => endsIn(name, BESIDE_ENDINGS.split(","));

/** How a mesh names what is read along with it, by its ending, and how much of it is searched. */
const NAMING = [
  {
    ending: ".gltf",
    names: /"uri"\s*:\s*("(?!data:)(?:[^"\\]|\\.)+")/g,
    pathOf: decoded,
    bytes: 64 << 20,
  },
  {
    ending: ".obj",
    names: /^mtllib[ \t]+(.+)$/gm,
    pathOf: (rest: string): string => rest.trim(),
    bytes: 1 << 20,
  },
];

/** What an address in a document means; as it stands where a percent sign means itself. */
function decoded(quoted: string): string {
  try {
    return decodeURIComponent(JSON.parse(quoted));
  } catch {
    return quoted.slice(1, -1);
  }
}

/**
 * The buffers or materials that a mesh names, of the files that came along: of several of one name
 * that in its own folder.
 */
export async function besideOf(mesh: File, along: File[]): Promise<File[]> {
  const beside = along.filter(({ name }) => isBesideMesh(name));
  const naming = NAMING.find(({ ending }) => endsIn(mesh.name, [ending]));
  if (!naming || !beside.length) return [];
  const text = await mesh.slice(0, naming.bytes).text();
  const paths = [...text.matchAll(naming.names)].map(([, told]) => naming.pathOf(told));
  const named = new Set(paths.map((path) => plain(path.split(/[\\/]/).at(-1) ?? "")));
  const found = beside.filter(({ name }) => named.has(plain(name)));
  const near = found.filter((file) => folderOf(file) === folderOf(mesh));
  const own = new Set(near.map(({ name }) => plain(name)));
  return [...near, ...found.filter((file) => !near.includes(file) && !own.has(plain(file.name)))];
}

/** Names that differ in letter case, or in how an accent is written, mean one file. */
const plain = (name: string) => name.normalize().toLowerCase();

/** A look whose materials name files from the folder on that the mesh was dropped in. */
export const withFolder = (look: MeshLook, folder: string): MeshLook => ({
  ...look,
  folder,
  beside: look.beside.map((one) => ({ ...one, folder: below(folder, one.folder) })),
});

/** A look without what it calls missing and what came along after all. */
export const withArrived = (look: MeshLook, names: Set<string>): MeshLook => ({
  ...look,
  findings: look.findings.filter(
    ({ id, numbers }) =>
      id !== "mesh-file-missing" || !names.has(String(numbers.name).split(/[\\/]/).at(-1) ?? ""),
  ),
});
