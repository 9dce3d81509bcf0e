import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, settled, type TextureSet } from "./client";
import type { components } from "./schema";

/** How a set is made, without its files. */
export type Settings = components["schemas"]["SettingsRequest"]["settings"];

export type SavedSettings = components["schemas"]["SavedSettings"];

const SAVED = ["saved settings"];

/** Settings that were saved under names, and how to save and forget them. */
export function useSavedSettings() {
  const queries = useQueryClient();
  const { data: saved = [] } = useQuery({
    queryKey: SAVED,
    queryFn: () => settled(api.GET("/api/settings")),
  });
  const onSuccess = () => queries.invalidateQueries({ queryKey: SAVED });
  const save = useMutation({
    mutationFn: async ({ name, set }: { name: string; set: TextureSet }) =>
      settled(
        api.PUT("/api/settings/{name}", {
          params: { path: { name } },
          body: await settingsOf(set.id),
        }),
      ),
    onSuccess,
  });
  const forget = useMutation({
    mutationFn: (name: string) =>
      settled(api.DELETE("/api/settings/{name}", { params: { path: { name } } })),
    onSuccess,
  });
  return { saved, save, forget };
}

/** Saved settings that would change a set as it is, and lack nothing in it. */
export const useFittingSettings = (set: TextureSet, isAsked: boolean) =>
  useQuery({
    queryKey: [...SAVED, set.id, set.head],
    queryFn: () =>
      settled(
        api.GET("/api/sets/{set_id}/settings/fitting", { params: { path: { set_id: set.id } } }),
      ),
    enabled: isAsked,
  }).data ?? [];

export const settingsOf = (id: string): Promise<Settings> =>
  settled(api.GET("/api/sets/{set_id}/settings", { params: { path: { set_id: id } } }));

/** Make a set by settings; its given maps stay. */
export const madeBy = (id: string, expects: number, settings: Settings): Promise<TextureSet> =>
  settled(
    api.POST("/api/sets/{set_id}/settings", {
      params: { path: { set_id: id } },
      body: { expects, settings },
    }),
  );
