import { useState } from "react";
import { api, settled, type TextureSet } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { TypedField } from "../../parts/TypedField";
import { RenameMany } from "./RenameMany";
import { type Change, useMany } from "./useMany";

const SIZES = [256, 512, 1024, 2048, 4096, 8192];

type ManyChangesProps = { project: string; sets: TextureSet[]; all: TextureSet[] };

/** What the selected sets are changed by, all of them alike; one press takes it back. */
export function ManyChanges({ project, sets, all }: ManyChangesProps) {
  const { run, takeBack, left, said } = useMany(project);
  const [isNaming, setNaming] = useState(false);
  const others = all.filter((set) => !sets.includes(set));
  const handleLike = async (id: string) => {
    const like = all.find((set) => set.id === id);
    const settings = await settled(api.GET("/api/sets/{set_id}/settings", pathOf(id)));
    await run(
      sets.filter((set) => set.id !== id),
      `made like ${like?.name}`,
      stepping((set) =>
        settled(
          api.POST("/api/sets/{set_id}/settings", {
            ...pathOf(set.id),
            body: { expects: set.head, settings },
          }),
        ),
      ),
    );
  };
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
    setNaming(false);
    return run(
      sets.filter(({ name }) => nameOf(name) !== name),
      "renamed",
      async (set) => {
        await called(set.id, nameOf(set.name));
        return () => called(set.id, set.name);
      },
    );
  };
  return (
    <div className="flex basis-full flex-wrap items-center gap-3 text-sm">
      <Choice
        label="Make the selected sets like another"
        className="w-40"
        value=""
        options={[["", "Make like …"], ...all.map(({ id, name }) => [id, name] as const)]}
        onChange={(id) => id && void handleLike(id)}
      />
      <Choice
        label="Size of the selected sets"
        className="w-32"
        value=""
        options={[["", "Longer side …"], ...SIZES.map((px) => [String(px), `${px} px`] as const)]}
        onChange={(px) => px && void handleSize(Number(px))}
      />
      <TypedField
        label="Where the pictures of the selected sets come from"
        className="w-44"
        placeholder="Where they come from"
        value=""
        onDone={(text) => text.trim() && void handleOrigin(text.trim())}
      />
      <button
        type="button"
        className="button"
        aria-expanded={isNaming}
        onClick={() => setNaming(!isNaming)}
      >
        Rename …
      </button>
      {left > 0 && <span role="status">{left} to go</span>}
      {left === 0 && said && (
        <span role="status" className="flex items-center gap-2">
          {said.text}
          {said.undo.length > 0 && (
            <button type="button" className="button" onClick={() => void takeBack()}>
              Take it back
            </button>
          )}
        </span>
      )}
      {said?.problems.map((text) => (
        <p key={text} role="alert" className="basis-full text-stop">
          {text}
        </p>
      ))}
      {isNaming && (
        <RenameMany
          sets={sets}
          others={others.map(({ name }) => name)}
          onDone={(nameOf) => void handleNames(nameOf)}
        />
      )}
    </div>
  );
}

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
