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
  { ending: ".gltf", names: /"uri"\s*:\s*"(?!data:)([^"]+)"/g, bytes: 64 << 20 },
  { ending: ".obj", names: /^mtllib[ \t]+(.+)$/gm, bytes: 1 << 20 },
];

/** The buffers or materials that a mesh names, of the files that came along. */
export async function besideOf(mesh: File, along: File[]): Promise<File[]> {
  const beside = along.filter(({ name }) => isBesideMesh(name));
  const naming = NAMING.find(({ ending }) => endsIn(mesh.name, [ending]));
  if (!naming || !beside.length) return [];
  const text = await mesh.slice(0, naming.bytes).text();
  const named = new Set([...text.matchAll(naming.names)].map(([, path]) => baseName(path)));
  return beside.filter(({ name }) => named.has(name.toLowerCase()));
}

/** A file's name without folders, in small letters, of a path as a mesh writes it. */
function baseName(path: string): string {
  const last = path.trim().split(/[\\/]/).at(-1) ?? "";
  try {
    return decodeURIComponent(last).toLowerCase();
  } catch {
    return last.toLowerCase(); // a percent sign that means itself
  }
}

/** A look without what it calls missing and what came along after all. */
export const withArrived = (look: MeshLook, names: Set<string>): MeshLook => ({
  ...look,
  findings: look.findings.filter(
    ({ id, numbers }) =>
      id !== "mesh-file-missing" || !names.has(String(numbers.name).split(/[\\/]/).at(-1) ?? ""),
  ),
});
