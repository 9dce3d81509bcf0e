import { useRef } from "react";
import { api, type FileLook, settled } from "../../api/client";
import { lookAsTold, type MeshLook } from "../../api/meshes";
import { errorOf } from "../../parts/failures";
import { keyOf, type Row } from "./rows";
import type { MeshRow } from "./useMeshes";

/** Files and meshes as they come, and what the meshes' materials say of the files. */
export function useMaterials() {
  const unheard = useRef(new Map<string, FileLook>());
  const meshes = useRef<MeshLook[]>([]);
  return {
    see: (looks: FileLook[]) => {
      for (const look of looks)
        if (look.readable && !look.layer_of) unheard.current.set(keyOf(look), look);
    },
    meet: (looks: MeshLook[]) =>
      meshes.current.push(...looks.filter(({ beside }) => beside.length > 0)),
    /** Of the meshes that were met, only these are still in the table. */
    stay: (rows: MeshRow[]) => {
      const used = rows.filter(({ isLeftOut }) => !isLeftOut);
      const here = new Set(used.map(({ look }) => look.sha256));
      meshes.current = meshes.current.filter(({ sha256 }) => here.has(sha256));
    },
    forget: (gone: Iterable<Row>) => {
      for (const { look } of gone) unheard.current.delete(keyOf(look));
    },
    /** Files that are something else, or of another set, by what was not heard yet. */
    hear: async (onProblem: (said: string) => void): Promise<FileLook[]> => {
      const looks = [...unheard.current.values()];
      if (!looks.length || !meshes.current.length) return [];
      const body = {
        files: looks.map(({ name, folder = "", set_name }) => ({ name, folder, set_name })),
        pictures: meshes.current.flatMap(({ beside }) => beside),
      };
      const readings = await settled(api.POST("/api/materials/readings", { body }));
      const changed = looks.map(async (look, k) => {
        const { set_name, reading } = readings[k];
        if (!reading) return { ...look, set_name };
        unheard.current.delete(keyOf(look));
        const { name, folder = "" } = look;
        return lookAsTold(look.sha256, { name, folder, reading }).catch((problem) => {
          onProblem(`${name}: ${errorOf(problem).message}`);
          return look;
        });
      });
      return Promise.all(changed.filter((_, k) => isChanged(looks[k], readings[k])));
    },
  };
}

const isChanged = (look: FileLook, heard: { reading: object | null; set_name: string }) =>
  heard.reading !== null || heard.set_name !== look.set_name;
