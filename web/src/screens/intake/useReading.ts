import { useCallback, useEffect, useRef, useState } from "react";
import { api, type FileLook, keepFile, layersOf, settled, withLayers } from "../../api/client";
import { type MeshLook, picturesIn } from "../../api/meshes";
import { isBesideMesh, isMeshName } from "../../api/meshNames";
import type { Dropped } from "../../line/dropped";
import { type Into, useIncoming } from "../../line/incoming";
import { errorOf } from "../../parts/failures";
import { corrected, type Row, withLayersOf, withLooks, withMerged } from "./rows";
import type { useMeshes } from "./useMeshes";
import { useRows } from "./useRows";

const AT_ONCE = 3; // uploads under way together: the server decodes on two cores
const FLUSH_MS = 150; // rows that arrive together are drawn together
const MOST_NAMES = 5000;

type Meshes = ReturnType<typeof useMeshes>;
/** Files as they are dropped, sent and read, and everything that a person corrects of them. */
export function useReading(project: string, meshes: Pick<Meshes, "handleFiles" | "handleLooks">) {
  const table = useRows();
  const { rows, setRows, step } = table;
  const arrived = useRef<FileLook[]>([]);
  const sent = useRef<Dropped[]>([]);
  const [busy, setBusy] = useState({ left: 0, of: 0 });
  const [problems, setProblems] = useState<string[]>([]);
  // chosen by hand for all files; undefined: by what each group's names are like
  const [source, setSource] = useState<string | null | undefined>(undefined);
  const [kept, setKept] = useState(0);
  const [into, setInto] = useState<Into | null>(null); // the set that the last drop went onto

  const flush = (set: Into | null = null) => {
    const looks = arrived.current.splice(0).map(table.named);
    if (!looks.length) return;
    setRows((now) => {
      const next = withLooks(now, looks);
      if (!set) return next;
      const own = new Set(looks.map((look) => `${look.sha256} ${look.name}`));
      return next.map((row) =>
        own.has(`${row.look.sha256} ${row.look.name}`)
          ? corrected(row, { set_name: set.name })
          : row,
      );
    });
  };
  const read = async (dropped: Dropped[], by: Map<string, string>, set: Into | null) => {
    setBusy({ left: dropped.length, of: dropped.length });
    const waiting = [...dropped];
    let last = 0;
    const next = async (): Promise<void> => {
      const one = waiting.shift();
      if (!one) return;
      try {
        const kept = await keepFile(one.file, one.folder, by.get(one.file.name) ?? null);
        arrived.current.push(...kept.files);
        if (kept.meshes.length || kept.problems.length)
          await meshes.handleLooks(kept.meshes, kept.problems, set);
        if (set === null) arrived.current.push(...(await picturesIn(kept.meshes)));
      } catch (problem) {
        setProblems((now) => [...now, `${one.file.name}: ${errorOf(problem).message}`]);
      }
      if (performance.now() - last > FLUSH_MS) {
        last = performance.now();
        flush(set);
        setBusy((now) => ({ ...now, left: waiting.length }));
      }
      return next();
    };
    await Promise.all(Array.from({ length: AT_ONCE }, next));
    flush(set);
    setBusy({ left: 0, of: 0 });
    setInto(set);
  };
  const readInside = async (looks: MeshLook[], set: Into | null) => {
    if (set !== null || !looks.some(({ pictures }) => pictures > 0)) return; // a set that is there has its own
    setBusy((now) => ({ left: now.left + 1, of: now.of + 1 }));
    try {
      arrived.current.push(...(await picturesIn(looks)));
    } catch (problem) {
      setProblems((now) => [...now, errorOf(problem).message]);
    }
    flush(set);
    setBusy((now) => ({ left: Math.max(now.left - 1, 0), of: Math.max(now.of - 1, 0) }));
  };
  const handleFiles = async (all: Dropped[], set: Into | null = null) => {
    const dropped = all.filter(({ file }) => !isMeshName(file.name) && !isBesideMesh(file.name));
    setProblems(all.length ? [] : ["Nothing was dropped: choose at least one file."]);
    const files = all.map(({ file }) => file);
    const inside = meshes.handleFiles(files, set).then((looks) => readInside(looks, set));
    if (!dropped.length) return inside;
    sent.current.push(...dropped);
    const names = dropped.map(({ file }) => file.name).slice(0, MOST_NAMES);
    const groups =
      source === undefined
        ? await settled(api.POST("/api/profiles/match", { body: { names } })).catch(() => [])
        : [];
    setKept(0);
    const matched = groups.flatMap((group) => group.names.map((n) => [n, group.profile] as const));
    await read(dropped, source === undefined ? new Map(matched) : allOf(source, dropped), set);
    await inside;
  };
  const latest = useRef(handleFiles);
  latest.current = handleFiles;
  const incoming = useIncoming((state) => state.incoming);
  useEffect(() => {
    if (incoming.some((one) => one.project === project))
      for (const one of useIncoming.getState().take(project))
        void latest.current(one.files, one.into);
  }, [incoming, project]);

  const handleFolder = async (place: string) => {
    setBusy({ left: 1, of: 1 });
    try {
      const body = { place, profile: source ?? null };
      const looks = await settled(api.POST("/api/folders/looks", { body }));
      arrived.current.push(...(await withLayers(looks, "", source ?? null)));
      flush();
    } catch (problem) {
      setProblems([errorOf(problem).message]);
    }
    setBusy({ left: 0, of: 0 });
  };
  const handleProfile = async (name: string | null) => {
    setSource(name);
    setKept(rows.filter((row) => Object.keys(row.byHand).length > 0).length);
    await read(sent.current, allOf(name, sent.current), null);
  };
  const handleLayers = useCallback(
    async (row: Row, way: "merged" | "layers") => {
      setBusy({ left: 1, of: 1 }); // nothing is taken in before its layers are there
      try {
        const layers = way === "layers" ? await layersOf(row.look) : [];
        step((now) =>
          way === "layers" ? withLayersOf(now, row.look, layers) : withMerged(now, row.look),
        );
      } catch (problem) {
        setProblems([`${row.look.name}: ${errorOf(problem).message}`]);
      }
      setBusy({ left: 0, of: 0 });
    },
    [step],
  );
  return {
    ...table,
    busy,
    problems,
    source: source ?? null,
    kept,
    into,
    settleInto: () => setInto(null),
    say: setProblems,
    handleFiles,
    handleFolder,
    handleProfile,
    handleLayers,
  };
}

/** One source for every file. */
const allOf = (source: string | null, files: Dropped[]) =>
  new Map(source === null ? [] : files.map(({ file }) => [file.name, source] as const));
