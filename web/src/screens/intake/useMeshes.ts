import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { useNavigate } from "react-router";
import { api, settled, type TextureSet } from "../../api/client";
import { below } from "../../api/folders";
import { type MeshLook, readMeshes } from "../../api/meshes";
import { isMeshName } from "../../api/meshNames";
import type { components } from "../../api/schema";
import type { Into } from "../../line/incoming";
import { refOf, withMeshes, withoutPlace } from "../../line/wearing";
import { NEW_PX } from "./takeIn";

type Role = NonNullable<MeshLook["role"]>;
/** A mesh that was dropped; what a person says that it is for, where its name does not. */
export type MeshRow = { look: MeshLook; role: Role | null; isLeftOut: boolean };
export type Wearing = components["schemas"]["WearingRow"];

/** Meshes as they are dropped, which sets they belong to, and how they are taken in. */
export function useMeshes(project: string) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [rows, setRows] = useState<MeshRow[]>([]);
  const [problems, setProblems] = useState<string[]>([]);
  const [isReading, setReading] = useState(false);
  const handleLooks = useCallback(
    async (looks: MeshLook[], wrong: string[], into: Into | null) => {
      if (into) {
        wrong.push(...(await put(looks, into).catch((problem: Error) => [problem.message])));
        if (wrong.length) navigate(`/p/${project}/intake`); // where it is said
      } else {
        const rows = looks.map((look) => ({ look, role: null, isLeftOut: false }));
        const fresh = new Set(looks.map(placeOf));
        setRows((now) => [...now.filter(({ look }) => !fresh.has(placeOf(look))), ...rows]);
      }
      setProblems((now) => [...now, ...wrong]);

      /** Bring meshes to the set that they were dropped onto; says what found no place. */
      async function put(looks: MeshLook[], { id, name }: Into): Promise<string[]> {
        const path = { params: { path: { set_id: id } } };
        const set = await settled(api.GET("/api/sets/{set_id}", path));
        const worn = withMeshes(set.recipe.worn ?? null, looks, name);
        if (worn && looks.length) {
          const body = { expects: set.head, recipe: { ...set.recipe, worn }, note: "" };
          await settled(api.PUT("/api/sets/{set_id}/recipe", { ...path, body }));
          await queries.invalidateQueries({ queryKey: ["sets", project] });
        }
        return withoutPlace(worn, looks).map((name) => `${name} needs a low mesh beside it.`);
      }
    },
    [project, queries, navigate],
  );
  const handleFiles = useCallback(
    async (files: File[], into: Into | null): Promise<MeshLook[]> => {
      setProblems([]);
      const meshes = files.filter(({ name }) => isMeshName(name));
      if (!meshes.length) return [];
      setReading(true);
      const { looks, wrong } = await readMeshes(meshes, NEW_PX, undefined, files);
      setReading(false);
      await handleLooks(looks, wrong, into);
      return looks;
    },
    [handleLooks],
  );
  const change = (row: MeshRow, told: Partial<MeshRow>) =>
    setRows((now) => now.map((one) => (one === row ? { ...one, ...told } : one)));
  const drop = (gone: Set<string>) =>
    setRows((now) => now.filter(({ look }) => !gone.has(look.sha256)));
  return { rows, isReading, problems, handleFiles, handleLooks, change, drop };
}

/** Where a mesh came from: dropped again it takes the place of what it was. */
const placeOf = ({ folder, name }: MeshLook) => below(folder ?? "", name);

/** What materials have one value for, by the set that they are, in small letters. */
export const valuesBySet = (rows: MeshRow[], sets: Wearing[]) =>
  new Map(
    sets.map(({ set_name, worn }) => {
      const look = rows.find((row) => row.look.sha256 === worn.low.sha256)?.look;
      const told = look?.values.find(({ material }) => material === worn.called);
      return [set_name.toLowerCase(), told?.values ?? {}] as const;
    }),
  );

/**
 * Which sets the meshes belong to, beside those named that are about to be made, and how they are
 * taken in.
 */
export function useWearings(
  project: string,
  { rows, isReading, drop }: ReturnType<typeof useMeshes>,
  names: string[],
) {
  const used = rows.filter((row) => !row.isLeftOut);
  const meshes = used.map(({ look, role }) => ({
    ...refOf(look),
    materials: look.materials,
    parts: look.parts,
    role,
    folder: look.folder,
  }));
  const plan = useQuery({
    queryKey: ["wearings", project, meshes, names],
    queryFn: () =>
      settled(
        api.POST("/api/projects/{project}/wearings/plan", {
          params: { path: { project } },
          body: { meshes, sets: names },
        }),
      ),
    enabled: meshes.length > 0,
  });
  const sets: Wearing[] = meshes.length ? (plan.data?.sets ?? []) : [];

  const going = new Set(
    sets.flatMap(({ worn }) =>
      [worn.low, ...worn.high, worn.cage].flatMap((mesh) => mesh?.sha256 ?? []),
    ),
  );
  const told = valuesBySet(used, sets);
  const valuesOf = (set: string) => told.get(set.toLowerCase()) ?? {};
  const take = async (): Promise<TextureSet[]> => {
    const entries = sets.map(({ set_name, worn }) => {
      return { set_name, worn, values: valuesOf(set_name) };
    });
    const made = await settled(
      api.POST("/api/projects/{project}/wearings", {
        params: { path: { project } },
        body: { sets: entries, size: NEW_PX },
      }),
    );
    drop(going);
    return made;
  };
  return {
    sets,
    alone: meshes.length ? (plan.data?.alone ?? []) : [],
    going: going.size,
    isBehind: isReading || (meshes.length > 0 && plan.isFetching),
    error: plan.error,
    valuesOf,
    take,
  };
}
export type Wearings = ReturnType<typeof useWearings>;
