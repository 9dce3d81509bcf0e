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

/** By ending of a mesh, what it may name that is read along with it. */
const NAMED_BY = { ".gltf": [".bin"], ".obj": [".mtl"] };

/** The buffers or materials that a mesh may name, of the files that came along. */
export const besideOf = (mesh: string, files: File[]): File[] =>
  Object.entries(NAMED_BY).flatMap(([ending, named]) =>
    endsIn(mesh, [ending]) ? files.filter(({ name }) => endsIn(name, named)) : [],
  );

/** A look without what it calls missing and what came along after all. */
export const withArrived = (look: MeshLook, names: Set<string>): MeshLook => ({
  ...look,
  findings: look.findings.filter(
    ({ id, numbers }) =>
      id !== "mesh-file-missing" || !names.has(String(numbers.name).split(/[\\/]/).at(-1) ?? ""),
  ),
});
