import { api, settled } from "./client";

/** Another set made as one is now, from the same files. */
export const copyOf = (id: string) =>
  settled(api.POST("/api/sets/{set_id}/copies", { params: { path: { set_id: id } }, body: {} }));
