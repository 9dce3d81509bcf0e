import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, sendBytes, settled, type TextureSet } from "./client";
import type { components } from "./schema";

/** What is in a mesh, and everything that was found on it. */
export type MeshLook = components["schemas"]["MeshLook"];
/** A mesh file as a recipe names it. */
export type MeshRef = components["schemas"]["MeshRef"];
/** The mesh that wears a set, and what is baked for it. */
export type Worn = NonNullable<TextureSet["recipe"]["worn"]>;
export type MapName = Worn["maps"][number];
export type Bake = components["schemas"]["BakeAnswer"];

const POLL_MS = 300;

const query = (told: Record<string, string | number>) =>
  new URLSearchParams(Object.entries(told).map(([name, value]) => [name, String(value)]));

/** Hand a mesh over to be read and checked, for maps of `px`. Throws what is wrong with it. */
export const lookAtMesh = (file: File, px: number): Promise<MeshLook> =>
  sendBytes(`/api/meshes?${query({ name: file.name, px })}`, file);

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

/** What wears one of its materials, as triangles with tangents. */
export async function wornBy(look: MeshLook, material: number): Promise<ArrayBuffer> {
  const response = await fetch(
    `/api/meshes/${look.sha256}/worn?${query({ name: look.name, material })}`,
  );
  if (!response.ok) throw new Error((await response.json()).detail);
  return response.arrayBuffer();
}

/** The borders of the islands that one of its materials wears; none until they are here. */
export function useBorders(look: MeshLook | null, material: number, isWanted: boolean) {
  const { data } = useQuery({
    queryKey: ["borders", look?.sha256, material],
    queryFn: () =>
      settled(
        api.GET("/api/meshes/{sha256}/borders", {
          params: {
            path: { sha256: look?.sha256 ?? "" },
            query: { name: look?.name ?? "", material },
          },
        }),
      ),
    enabled: look !== null && isWanted,
    staleTime: Infinity,
  });
  return data ?? NONE;
}

const NONE: number[][] = [];

/** The picture of what is found on a mesh, to lay over its map. */
export const marksUrl = (look: MeshLook, material: number, kind: string) =>
  `/api/meshes/${look.sha256}/marks/${kind}?${query({ name: look.name, material })}`;

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
