import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { putBenchFirst } from "../../api/assays";
import type { TextureSet } from "../../api/client";
import { placeOf } from "../../line/justTaken";
import { useDeliverSets } from "../../line/useDeliverSets";
import { errorOf } from "../../parts/failures";
import { usePress } from "../../parts/usePress";
import { askFirst } from "../bench/pictures";
import { isUsable, type Row } from "./rows";
import { alreadyGiven, entriesOf, type Group, isReady, rowsOf, takeIn } from "./takeIn";
import type { Wearings } from "./useMeshes";
import type { useReading } from "./useReading";

type TakingIn = {
  project: string;
  isHere: boolean;
  reading: ReturnType<typeof useReading>;
  groups: Group[];
  /** The server has not said yet where the files go since they were last changed. */
  isBehind: boolean;
  usual: string[];
  meshes: Wearings;
  taking: Taking | null;
  onTaking: (taking: Taking | null) => void;
};

/** How many sets are taken in of how many. */
export type Taking = { done: number; of: number };

const CLEAR_MS = 300; // sets that are taken in leave the table together

/** Where sets go once they are taken in. */
export type Way = "sets" | "targets";

/**
 * What is done with the table as it stands: take its sets in, deliver them, add files dropped on a
 * set.
 */
export function useTakingIn(told: TakingIn) {
  const { project, isHere, reading, groups, isBehind, usual, meshes, taking, onTaking } = told;
  const deliver = useDeliverSets(project);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const isTaking = taking !== null;
  const isStopped = useRef(false);
  const isLookedAt = useRef(isHere);
  isLookedAt.current = isHere;
  const [said, setSaid] = useState<string | null>(null);
  const ready = groups.filter(isReady);
  const isWaiting = isBehind || meshes.isBehind;
  const isRead = reading.busy.of === 0 && !isWaiting;
  const canGo = isHere && ready.length + meshes.sets.length > 0 && isRead && !isTaking;

  /**
   * Take groups in one after the other; one that fails stays in the table and says why. Stopped,
   * the others stay in the table, and nothing is done with those that are in.
   */
  const take = async (
    wanted: Group[],
    onMade?: (made: TextureSet[]) => void,
  ): Promise<TextureSet[]> => {
    const made: TextureSet[] = [];
    const failed: string[] = [];
    const gone = new Set<Row>();
    let [done, last] = [0, performance.now()];
    const clear = () => {
      reading.drop(new Set(gone));
      gone.clear();
      onTaking({ done, of: wanted.length });
      last = performance.now();
    };
    isStopped.current = false;
    onTaking({ done, of: wanted.length });
    for (const group of wanted) {
      if (isStopped.current) break;
      try {
        made.push(await takeIn(project, group, meshes.valuesOf(group.name)));
        for (const row of rowsOf(group)) gone.add(row);
      } catch (problem) {
        failed.push(`${group.name}: ${errorOf(problem).message}`);
      }
      done++;
      if (performance.now() - last > CLEAR_MS) clear();
    }
    clear();
    try {
      if (!failed.length && !isStopped.current && meshes.sets.length)
        for (const set of await meshes.take())
          made.splice(0, made.length, ...made.filter(({ id }) => id !== set.id), set);
    } catch (problem) {
      failed.push(errorOf(problem).message);
    }
    reading.say(failed);
    onTaking(null);
    onMade?.(made);
    await queries.invalidateQueries({ queryKey: ["sets", project] });
    return failed.length || isStopped.current ? [] : made;
  };
  const toSets = async () => {
    const isAll = ready.length === groups.filter((group) => entriesOf(group).length > 0).length;
    const made = await take(ready, ([one, ...more]) => {
      if (!isAll || !one || more.length) return;
      putBenchFirst();
      askFirst(queries, one);
    });
    if (!made.length || !isAll) return;
    if (isLookedAt.current) navigate(placeOf(project, made));
    else setSaid(`${setsSaid(made.length)} taken in`);
  };
  const toTargets = async () => {
    const made = await take(ready);
    const withMaps = made.filter(({ masters }) => masters.some((m) => m.origin !== "absent"));
    if (!withMaps.length) return;
    await deliver(
      withMaps.map(({ id }) => id),
      usual,
      () => isLookedAt.current,
    );
    if (!isLookedAt.current)
      setSaid(`${setsSaid(made.length)} taken in; Delivery shows how they stand`);
  };

  const ways: Record<Way, () => Promise<void>> = { sets: toSets, targets: toTargets };
  const isSoon = isHere && isWaiting && reading.busy.of === 0 && !isTaking;
  const press = usePress<Way>(canGo, isSoon, (way) => {
    if (way === "sets" || usual.length) void ways[way]();
  });

  const { into, settleInto } = reading;
  useEffect(() => {
    if (!into || !isRead) return;
    settleInto();
    const group = groups.find(({ there }) => there?.id === into.id);
    const own = group && { ...group, way: "add" as const };
    if (
      !own ||
      !isReady(own) ||
      own.lines.some(({ row }) => !isUsable(row)) ||
      alreadyGiven(own).length
    )
      return void navigate(`/p/${project}/intake`); // something is to be said first
    const names = own.lines.map(({ row }) => row.look.name).join(", ");
    void take([own]).then((made) => made.length && setSaid(`Added to ${into.name}: ${names}`));
  });
  return {
    ready,
    canPress: canGo || isSoon,
    press,
    stop: () => {
      isStopped.current = true;
    },
    said,
    putSaidAway: () => setSaid(null),
  };
}

const setsSaid = (count: number) => (count === 1 ? "1 set is" : `${count} sets are`);
