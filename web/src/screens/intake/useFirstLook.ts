import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, settled } from "../../api/client";
import { askFirst } from "../bench/pictures";
import { useView } from "../bench/view";
import { entriesOf, type Group } from "./takeIn";
import type { Wearings } from "./useMeshes";

/** Whoever is quicker waits at the bench. Programs hold up the page a little, pictures do not. */
const REST_MS = { programs: 700, pictures: 250 };
const TAB = crypto.randomUUID();
let seq = 0;

/**
 * What the bench needs for its first look, made ready while the table is read: the lit view's
 * programs, and where one set alone will lead to the bench, what it starts from and its pictures.
 */
export function useFirstLook(isReady: boolean, ready: Group[], meshes: Wearings) {
  const queries = useQueryClient();
  const [one, ...more] = ready;
  const isAlone = isReady && one && !one.there && !more.length && !meshes.sets.length;
  const told = isAlone
    ? { name: one.name, entries: entriesOf(one), values: meshes.valuesOf(one.name) }
    : null;
  const asked = JSON.stringify(told);

  useEffect(() => {
    if (!isReady || useView.getState().look === "flat") return;
    const warm = async () => (await import("../bench/LitStage")).warmLit();
    return afterRest(REST_MS.programs, () => warm().catch(() => {})); // the bench says what is wrong
  }, [isReady]);

  useEffect(() => {
    const body: typeof told = JSON.parse(asked);
    if (!body) return;
    const stop = new AbortController();
    const look = async () => {
      const first = await settled(
        api.POST("/api/first-looks", {
          body: { ...body, view: TAB, seq: ++seq },
          signal: stop.signal,
        }),
      );
      if (first && !stop.signal.aborted) askFirst(queries, first);
    };
    const putOff = afterRest(REST_MS.pictures, () => look().catch(() => {})); // taking it in says what is wrong
    return () => {
      putOff();
      stop.abort();
    };
  }, [asked, queries]);
}

function afterRest(ms: number, run: () => void) {
  const timer = setTimeout(run, ms);
  return () => clearTimeout(timer);
}
