import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { api, type Recipe, settled } from "../../api/client";
import { keyOf } from "./comparing";
import type { Other } from "./view";

const TURN_MS = 700;

/** The recipe of the version that is compared with, once it is here. */
export function useVersion(setId: string, other: Other): Recipe | null {
  const key = keyOf(other, "version");
  const { data } = useQuery({
    queryKey: ["version", setId, key],
    queryFn: () =>
      settled(
        api.GET("/api/sets/{set_id}/versions/{version}", {
          params: { path: { set_id: setId, version: Number(key) } },
        }),
      ),
    enabled: key !== null,
    staleTime: Infinity,
  });
  return key === null ? null : (data ?? null);
}

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
