import { api, settled } from "./client";

/** Another set made as one is now, from the same files; in the same project, or in another. */
export const copyOf = (id: string, project?: string) =>
  settled(
    api.POST("/api/sets/{set_id}/copies", {
      params: { path: { set_id: id } },
      body: { project: project ?? null },
    }),
  );
