import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { api, type Recipe, settled, type TextureSet } from "../../api/client";
import { keyOf } from "./comparing";
import type { Other } from "./view";

const TURN_MS = 700;

/** The recipe of the version, or of the start, that is compared with, once it is here. */
export function useVersion({ id, head }: TextureSet, other: Other): Recipe | null {
  const version = keyOf(other, "version");
  const start = keyOf(other, "start");
  const asked = version ?? start;
  const { data } = useQuery({
    queryKey: ["version", id, version ?? `${start} of ${head}`],
    queryFn: () =>
      start === null
        ? settled(
            api.GET("/api/sets/{set_id}/versions/{version}", {
              params: { path: { set_id: id, version: Number(version) } },
            }),
          )
        : settled(
            api.GET("/api/sets/{set_id}/starts/{start}", {
              params: { path: { set_id: id, start } },
            }),
          ),
    enabled: asked !== null,
    staleTime: Infinity,
  });
  return asked === null ? null : (data ?? null);
}

/** Kinds of material that a set can start as. */
export function useStarts() {
  const { data } = useQuery({
    queryKey: ["starts"],
    queryFn: () => settled(api.GET("/api/starts")),
    staleTime: Infinity,
  });
  return data ?? NO_STARTS;
}

const NO_STARTS: { key: string; title: string }[] = [];

/** True by turns while `isOn`. */
export function useTurns(isOn: boolean): boolean {
  const [isTurned, setTurned] = useState(false);
  useEffect(() => {
    if (!isOn) return;
    const timer = setInterval(() => setTurned((now) => !now), TURN_MS);
    return () => {
      clearInterval(timer);
      setTurned(false);
    };
  }, [isOn]);
  return isTurned;
}

/** A box and its size in CSS pixels, followed while there is one. */
export function useSize() {
  const [size, setSize] = useState({ width: 1, height: 1 });
  const box = useCallback((element: HTMLElement | null) => {
    if (!element) return;
    const observer = new ResizeObserver(([entry]) =>
      setSize({
        width: Math.round(entry.contentRect.width),
        height: Math.round(entry.contentRect.height),
      }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [box, size] as const;
}
