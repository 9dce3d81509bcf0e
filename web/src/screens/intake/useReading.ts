import { useCallback, useEffect, useRef, useState } from "react";
import { api, keepFile, layersOf, settled, withLayers } from "../../api/client";
import { type MeshLook, picturesIn } from "../../api/meshes";
import { isBesideMesh, isMeshName } from "../../api/meshNames";
import type { Dropped } from "../../line/dropped";
import { type Into, useIncoming } from "../../line/incoming";
import { errorOf } from "../../parts/failures";
import { type Row, withLayersOf, withMerged } from "./rows";
import { useArrivals } from "./useArrivals";
import { useMaterials } from "./useMaterials";
import type { useMeshes } from "./useMeshes";
import { useRows } from "./useRows";

const AT_ONCE = 3; // uploads under way together: the server decodes on two cores
const FLUSH_MS = 150; // rows that arrive together are drawn together
const MOST_NAMES = 5000;

type Meshes = ReturnType<typeof useMeshes>;
/** Files as they are dropped, sent and read, and everything that a person corrects of them. */
export function useReading(
  project: string,
  meshes: Pick<Meshes, "rows" | "handleFiles" | "handleLooks">,
  onSaved: (file: File, names: string[]) => void,
) {
  const table = useRows();
  const { rows, step } = table;
  const sent = useRef<Dropped[]>([]);
  const materials = useMaterials();
  const [busy, setBusy] = useState({ left: 0, of: 0 });
  const [problems, setProblems] = useState<string[]>([]);
  // chosen by hand for all files; undefined: by what each group's names are like
  const [source, setSource] = useState<string | null | undefined>(undefined);
  const [kept, setKept] = useState(0);
  const [into, setInto] = useState<Into | null>(null); // the set that the last drop went onto

  const handleProblem = (said: string) => setProblems((now) => [...now, said]);
  const { put, bring, flush } = useArrivals(table, handleProblem);
  const read = async (
    dropped: Dropped[],
    by: Map<string, string>,
    set: Into | null,
    inside: Promise<void> = Promise.resolve(),
  ) => {
    setBusy({ left: dropped.length, of: dropped.length });
    const waiting = [...dropped];
    let last = 0;
    const next = async (): Promise<void> => {
      const one = waiting.shift();
      if (!one) return;
      try {
        const kept = await keepFile(one.file, one.folder, by.get(one.file.name) ?? null);
        if (kept.saved.length) sent.current = sent.current.filter((other) => other !== one);
        if (kept.saved.length) onSaved(one.file, kept.saved); // no source has a say in them
        put(kept.files);
        materials.see(kept.files);
        if (kept.meshes.length || kept.problems.length)
          await meshes.handleLooks(kept.meshes, kept.problems, set);
        if (set === null) {
          materials.meet(kept.meshes);
          put(await picturesIn(kept.meshes));
        }
      } catch (problem) {
        handleProblem(`${one.file.name}: ${errorOf(problem).message}`);
      }
      if (performance.now() - last > FLUSH_MS) {
        last = performance.now();
        flush(set);
        setBusy((now) => ({ ...now, left: waiting.length }));
      }
      return next();
    };
    await Promise.all(Array.from({ length: AT_ONCE }, next));
    await inside;
    if (set === null) await bring(materials.hear(handleProblem));
    flush(set);
    setBusy({ left: 0, of: 0 });
    setInto(set);
  };
  const readInside = async (looks: MeshLook[], set: Into | null) => {
    if (set !== null) return; // a set that is there has its own
    materials.meet(looks);
    setBusy((now) => ({ left: now.left + 1, of: now.of + 1 }));
    await bring(picturesIn(looks));
    await bring(materials.hear(handleProblem));
    flush(set);
    setBusy((now) => ({ left: Math.max(now.left - 1, 0), of: Math.max(now.of - 1, 0) }));
  };
  const handleFiles = async (all: Dropped[], set: Into | null = null) => {
    const dropped = all.filter(({ file }) => !isMeshName(file.name) && !isBesideMesh(file.name));
    materials.stay(meshes.rows);
    setProblems(all.length ? [] : ["Nothing was dropped: choose at least one file."]);
    const files = all.map(({ file }) => file);
    const inside = meshes.handleFiles(files, set).then((looks) => readInside(looks, set));
    if (!dropped.length) return inside;
    sent.current.push(...dropped);
    const by = source === undefined ? await byNames(dropped) : allOf(source, dropped);
    setKept(0);
    await read(dropped, by, set, inside);
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
    setProblems([]);
    const body = { place, profile: source ?? null };
    const looks = settled(api.POST("/api/folders/looks", { body }));
    await bring(looks.then((found) => withLayers(found, "", source ?? null)));
    flush();
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
  const drop = (gone: Set<Row>) => {
    materials.forget(gone);
    table.drop(gone);
  };
  return {
    ...table,
    drop,
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

/** The source of each file whose group of names one knows. */
async function byNames(files: Dropped[]): Promise<Map<string, string>> {
  const names = files.map(({ file }) => file.name).slice(0, MOST_NAMES);
  const asked = settled(api.POST("/api/profiles/match", { body: { names } }));
  const groups = await asked.catch(() => []); // without one they are read by themselves
  return new Map(groups.flatMap((group) => group.names.map((name) => [name, group.profile])));
}

/** One source for every file. */
const allOf = (source: string | null, files: Dropped[]) =>
  new Map(source === null ? [] : files.map(({ file }) => [file.name, source] as const));
