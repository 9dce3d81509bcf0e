import { useQuery } from "@tanstack/react-query";
import { api, sendBytes, settled } from "./client";
import type { components } from "./schema";

/** What is in a mesh, and everything that was found on it. */
export type MeshLook = components["schemas"]["MeshLook"];

const query = (told: Record<string, string | number>) =>
  new URLSearchParams(Object.entries(told).map(([name, value]) => [name, String(value)]));

/** Hand a mesh over to be read and checked, for maps of `px`. Throws what is wrong with it. */
export const lookAtMesh = (file: File, px: number): Promise<MeshLook> =>
  sendBytes(`/api/meshes?${query({ name: file.name, px })}`, file);

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
  return data ?? [];
}
