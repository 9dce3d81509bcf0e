import { api, type Project, settled, type TextureSet } from "../../api/client";
import { copyOf } from "../../api/sets";
import { madeBy, type SavedSettings, type Settings, settingsOf } from "../../api/settings";
import type { Move } from "../../parts/moves";
import type { Change, useMany } from "./useMany";

type Alike = {
  sets: TextureSet[]; // the selected ones
  all: TextureSet[];
  saved: SavedSettings[];
  run: ReturnType<typeof useMany>["run"];
};

/** What can be done to all selected sets, each as one step of its history where it has one. */
export function changesOf({ sets, all, saved, run }: Alike) {
  const handleLike = (key: string) => {
    const like = all.find((set) => set.id === key);
    const one = saved.find(({ name }) => SAVED + name === key);
    // once for all of them, and where it fails each says so
    let asked: Promise<Settings> | null = null;
    const settings = () => {
      asked ??= one ? Promise.resolve(one.settings) : settingsOf(key);
      return asked;
    };
    return run(
      sets.filter((set) => set.id !== key),
      `made like ${like?.name ?? one?.name}`,
      stepping(async (set) => madeBy(set.id, set.head, await settings())),
    );
  };
  const handleValue = (master: string, title: string, value: number) => {
    const isGiven = (set: TextureSet) =>
      set.masters.some(({ key, origin }) => key === master && origin === "given");
    const kept = sets.filter(isGiven).length;
    const keep = kept
      ? `, ${kept === 1 ? "1 keeps the one it came" : `${kept} keep the one they came`} with`
      : "";
    return run(
      sets.filter((set) => !isGiven(set)),
      `given one ${title.toLowerCase()} of ${value}${keep}`,
      stepping((set) => madeBy(set.id, set.head, oneValue(master, value))),
    );
  };
  const handleMove = (move: Move) =>
    run(
      sets,
      move.kind === "turn" ? "rotated" : "mirrored",
      stepping(({ id, head }) =>
        settled(
          api.POST("/api/sets/{set_id}/moves", { ...pathOf(id), body: { expects: head, move } }),
        ),
      ),
    );
  const handleSize = (longer: number) =>
    run(
      sets,
      `brought to ${longer} px`,
      stepping(({ id, head, recipe: { facts } }) =>
        settled(
          api.POST("/api/sets/{set_id}/size", {
            ...pathOf(id),
            body: {
              expects: head,
              size: { longer, sampling: facts.sampling, keep_shine: facts.keep_shine },
            },
          }),
        ),
      ),
    );
  const handleOrigin = (origin: string) =>
    run(
      sets,
      "told where their pictures come from",
      stepping(({ id, head, recipe }) =>
        settled(
          api.PUT("/api/sets/{set_id}/recipe", {
            ...pathOf(id),
            body: {
              expects: head,
              recipe: { ...recipe, facts: { ...recipe.facts, origin } },
              note: "",
            },
          }),
        ),
      ),
    );
  const handleNames = (nameOf: (name: string) => string) => {
    return run(
      sets.filter(({ name }) => nameOf(name) !== name),
      "renamed",
      async (set) => {
        await called(set.id, nameOf(set.name));
        return () => called(set.id, set.name);
      },
    );
  };
  const handleCopies = (into?: Project) =>
    run(sets, into ? `copied into ${into.title}` : "copied", async ({ id }) => {
      const copy = await copyOf(id, into?.name);
      return () => settled(api.DELETE("/api/sets/{set_id}", pathOf(copy.id)));
    });
  return {
    handleLike,
    handleValue,
    handleMove,
    handleSize,
    handleOrigin,
    handleNames,
    handleCopies,
  };
}

export const SAVED = "saved "; // before a name, apart from the ids of sets

/** Settings of one master that is the same everywhere. */
const oneValue = (master: string, value: number): Settings => ({
  schema: 1,
  rise: 1, // of no height: it is not looked at
  masters: {
    [master]: { op: "constant", algorithm: 1, params: { value }, other: null, mask: null },
  },
});

const pathOf = (id: string) => ({ params: { path: { set_id: id } } });

const called = (id: string, name: string) =>
  settled(api.PUT("/api/sets/{set_id}/name", { ...pathOf(id), body: { name } }));

/** A change that is a step of a set's history, taken back by undoing that step. */
const stepping =
  (change: (set: TextureSet) => Promise<TextureSet>): Change =>
  async (set) => {
    const { head } = await change(set);
    return () =>
      settled(
        api.POST("/api/sets/{set_id}/step", {
          ...pathOf(set.id),
          body: { expects: head, step: "undo" },
        }),
      );
  };
