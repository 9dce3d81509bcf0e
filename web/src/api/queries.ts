import { useQuery } from "@tanstack/react-query";
import { api, settled } from "./client";

/** Queries that more than one screen asks. */

export const useProjects = () => useQuery({ queryKey: ["projects"], queryFn: () => settled(api.GET("/api/projects")) });

export const useSets = (project: string) =>
  useQuery({ queryKey: ["sets", project], queryFn: () => settled(api.GET("/api/projects/{project}/sets", { params: { path: { project } } })) });

export const useTargets = () => useQuery({ queryKey: ["targets"], queryFn: () => settled(api.GET("/api/targets")), staleTime: Infinity });

export const usePlans = (project: string, sets: string[], targets: string[], heads: string) =>
  useQuery({
    queryKey: ["plans", project, sets, targets, heads],
    queryFn: () => settled(api.POST("/api/projects/{project}/plans", { params: { path: { project } }, body: { sets, targets } })),
    enabled: sets.length > 0 && targets.length > 0,
  });
