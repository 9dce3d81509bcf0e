import { useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { ask } from "../parts/ask";
import { errorOf } from "../parts/failures";
import { api, sendBytes, settled, type TextureSet } from "./client";
import { folderOf } from "./folders";
import { besideOf, isBesideMesh, type MeshLook, withArrived, withFolder } from "./meshNames";
import type { components } from "./schema";
import { inTurns } from "./turns";

export type { MeshLook };
/** A mesh file as a recipe names it. */
export type MeshRef = components["schemas"]["MeshRef"];
/** The mesh that wears a set, and what is baked for it. */
export type Worn = NonNullable<TextureSet["recipe"]["worn"]>;
export type MapName = Worn["maps"][number];
export type Bake = components["schemas"]["BakeAnswer"];

const POLL_MS = 300;

const query = (told: Record<string, string | number>) =>
  new URLSearchParams(Object.entries(told).map(([name, value]) => [name, String(value)]));

/**
 * Hand a mesh over to be read and checked, for maps of `px`, after the buffers that came along with
 * it. Throws what is wrong with it.
 */
async function lookAtMesh(file: File, px: number, beside: Iterable<File>) {
  const told = query({ name: file.name, px });
  for (const near of beside) {
    const sha256 = await sendBytes<string>(
      `/api/meshes/beside?${query({ name: near.name })}`,
      near,
    );
    told.append("beside", `${sha256} ${near.name}`);
  }
  return sendBytes<MeshLook>(`/api/meshes?${told}`, file);
}

const readings = inTurns(3); // each reads whole pictures: the server decodes on two cores

/** The pictures inside of meshes, each kept as a file of its own and read as its material says. */
export const picturesIn = async (looks: MeshLook[]) => {
  const found = looks.filter(({ pictures }) => pictures > 0);
  const answers = found.map(({ sha256, name }) =>
    readings.ask(sha256, () =>
      settled(
        api.POST("/api/meshes/{sha256}/pictures", {
          params: { path: { sha256 }, query: { name } },
        }),
      ),
    ),
  );
  return (await Promise.all(answers)).flat();
};

/** What a file is by the word of a mesh's material that reads it. */
export const lookAsTold = (sha256: string, told: components["schemas"]["MaterialTold"]) =>
  readings.ask(sha256, () =>
    settled(
      api.POST("/api/originals/{sha256}/material", { params: { path: { sha256 } }, body: told }),
    ),
  );

/** What is in a mesh that was handed over before. */
export function useMeshLook(mesh: MeshRef | null | undefined, px: number) {
  const { data, error } = useQuery({
    queryKey: ["mesh", mesh?.sha256, px],
    queryFn: () =>
      settled(
        api.GET("/api/meshes/{sha256}/look", {
          params: { path: { sha256: mesh?.sha256 ?? "" }, query: { name: mesh?.name ?? "", px } },
        }),
      ),
    enabled: !!mesh,
    staleTime: Infinity,
  });
  return { look: data ?? null, error };
}

/** A mesh without what was found on it, made beside the one that came. */
export const mendedMesh = ({ sha256, name }: MeshRef, finding: string, px: number) =>
  settled(
    api.POST("/api/meshes/{sha256}/mended", {
      params: { path: { sha256 }, query: { name, finding, px } },
    }),
  );

export type Mapping = "islands" | "flat" | "box";

/** A mesh with UV made by the machine, beside the one that came; second ones are for light. */
export const unfoldedMesh = (
  { sha256, name }: MeshRef,
  way: Mapping,
  second: boolean,
  px: number,
) =>
  settled(
    api.POST("/api/meshes/{sha256}/unfolded", {
      params: { path: { sha256 }, query: { name, way, second, px } },
    }),
  );

/**
 * Files read as meshes one after the other, but for what lies beside some; and what is wrong with
 * those that could not be: one file never stops the others. `along` is everything that came.
 */
export async function readMeshes(
  files: File[],
  px: number,
  onRead: (name: string) => void = () => {},
  along = files,
) {
  const [looks, wrong]: [MeshLook[], string[]] = [[], []];
  const names = new Set(along.map(({ name }) => name));
  for (const file of files.filter(({ name }) => !isBesideMesh(name)))
    try {
      onRead(file.name);
      const beside = await besideOf(file, along);
      const look = await lookAtMesh(file, px, beside);
      looks.push(withFolder(withArrived(look, names), folderOf(file)));
    } catch (problem) {
      wrong.push(errorOf(problem).message);
    }
  return { looks, wrong };
}

/** What wears one of its materials, as triangles with tangents. */
export async function wornBy(look: MeshLook, material: number): Promise<ArrayBuffer> {
  const response = await ask(
    `/api/meshes/${look.sha256}/worn?${query({ name: look.name, material })}`,
  );
  if (!response.ok) throw new Error((await response.json()).detail);
  return response.arrayBuffer();
}

/**
 * The borders of the islands that one of its materials wears, of each of these tiles (null: the one
 * picture); none until they are here.
 */
export function useBorders(
  look: MeshLook | null,
  material: number,
  tiles: (number | null)[],
): number[][][] {
  return useQueries({
    queries: tiles.map((tile) => ({
      queryKey: ["borders", look?.sha256, material, tile],
      queryFn: () =>
        settled(
          api.GET("/api/meshes/{sha256}/borders", {
            params: {
              path: { sha256: look?.sha256 ?? "" },
              query: { name: look?.name ?? "", material, tile },
            },
          }),
        ),
      enabled: look !== null,
      staleTime: Infinity,
    })),
    combine: bordersOf,
  });
}

const bordersOf = (answers: { data?: number[][] }[]) => answers.map(({ data }) => data ?? []);

/** The picture of what is found on a mesh, to lay over its map. */
export const marksUrl = (
  { sha256, name, px }: MeshLook,
  material: number,
  kind: string,
  tile: number | null = null,
) =>
  `/api/meshes/${sha256}/marks/${kind}?${query({ name, material, size: px, ...(tile === null ? {} : { tile }) })}`;

/** Every map that can be baked. */
export function useBakeable() {
  const { data } = useQuery({
    queryKey: ["bakeable"],
    queryFn: () => settled(api.GET("/api/bakeable")),
    staleTime: Infinity,
  });
  return data ?? [];
}

export const isBaking = (bake: Bake | null | undefined) =>
  bake?.state === "waiting" || bake?.state === "running";

/** The newest bake of a set: how far it is, how to begin one and to stop it. */
export function useBake(project: string, set: TextureSet) {
  const queries = useQueryClient();
  const queryKey = ["bake", set.id];
  const path = { params: { path: { set_id: set.id } } };
  const keep = (bake: Bake) => queries.setQueryData(queryKey, bake);
  const latest = useQuery({
    queryKey,
    queryFn: async () => {
      const before = queries.getQueryData<Bake | null>(queryKey);
      const found = await settled(api.GET("/api/sets/{set_id}/bake", path));
      if (isBaking(before) && !isBaking(found))
        await queries.invalidateQueries({ queryKey: ["sets", project] });
      return found;
    },
    enabled: !!set.recipe.worn,
    refetchInterval: (query) => (isBaking(query.state.data) ? POLL_MS : false),
  });
  const start = useMutation({
    mutationFn: (body: { maps?: MapName[]; is_trial?: boolean }) =>
      settled(
        api.POST("/api/sets/{set_id}/bakes", { ...path, body: { is_trial: false, ...body } }),
      ),
    onSuccess: keep,
  });
  const stop = useMutation({
    mutationFn: (bake_id: string) =>
      settled(api.POST("/api/bakes/{bake_id}/cancel", { params: { path: { bake_id } } })),
  });
  return {
    bake: latest.data ?? null,
    start,
    stop,
    error: start.error ?? latest.error ?? stop.error,
  };
}
