import { useRef } from "react";
import type { FileLook } from "../../api/client";
import { lookAsTold, type MeshLook } from "../../api/meshes";
import type { components } from "../../api/schema";
import { keyOf, type Row } from "./rows";

/** A file that came along, and how a mesh's material reads it. */
export type ToldFile = { look: FileLook; told: components["schemas"]["MaterialTold"] };

/**
 * The files that materials of these meshes read. Of several files of one name the one counts that
 * lies where the material says; what several materials share keeps its own set.
 */
export function toldFiles(looks: FileLook[], meshes: MeshLook[]): ToldFile[] {
  const files = looks.filter(({ readable, layer_of }) => readable && !layer_of);
  return files.flatMap((look) => {
    const isOnly = files.filter(({ name }) => isSame(name, look.name)).length === 1;
    const uses = meshes.flatMap(({ beside, stem }) =>
      beside
        .filter(
          ({ name, folder }) =>
            isSame(name, look.name) && (isOnly || isSame(folder, look.folder ?? "")),
        )
        .map((use) => ({ ...use, stem })),
    );
    if (!uses.length) return [];
    const isShared = new Set(uses.map(({ material, stem }) => material || stem)).size > 1;
    const told = {
      name: look.name,
      folder: look.folder ?? "",
      slots: [...new Set(uses.flatMap(({ slots }) => slots))],
      material: isShared ? "" : uses[0].material,
      stem: isShared ? look.set_name : uses[0].stem,
      is_cut: uses.some(({ is_cut }) => is_cut),
    };
    return [{ look, told }];
  });
}

const isSame = (one: string, other: string) => one.toLowerCase() === other.toLowerCase();

/**
 * Files that no material reads, of sets whose other files are all of one material: they go along
 * to its set.
 */
export function alongWith(looks: FileLook[], told: ToldFile[], answers: FileLook[]): FileLook[] {
  const to = new Map<string, Set<string>>();
  for (const [k, { look }] of told.entries())
    to.set(look.set_name, (to.get(look.set_name) ?? new Set()).add(answers[k].set_name));
  const settled = new Set(told.map(({ look }) => keyOf(look)));
  return looks.flatMap((look) => {
    const [name, ...more] = settled.has(keyOf(look)) ? [] : (to.get(look.set_name) ?? []);
    return name === undefined || more.length || name === look.set_name
      ? []
      : [{ ...look, set_name: name }];
  });
}

/** Files and meshes as they come, and what the meshes' materials say of the files. */
export function useMaterials() {
  const untold = useRef(new Map<string, FileLook>());
  const meshes = useRef<MeshLook[]>([]);
  return {
    see: (looks: FileLook[]) => {
      for (const look of looks) untold.current.set(keyOf(look), look);
    },
    meet: (looks: MeshLook[]) => meshes.current.push(...looks),
    forget: (gone: Iterable<Row>) => {
      for (const { look } of gone) untold.current.delete(keyOf(look));
    },
    /** Files that are something else by what was not heard yet. */
    hear: async (): Promise<FileLook[]> => {
      const looks = [...untold.current.values()];
      const told = toldFiles(looks, meshes.current);
      for (const { look } of told) untold.current.delete(keyOf(look));
      const answers = await Promise.all(
        told.map(({ look, told }) => lookAsTold(look.sha256, told)),
      );
      return [...answers, ...alongWith(looks, told, answers)];
    },
  };
}
