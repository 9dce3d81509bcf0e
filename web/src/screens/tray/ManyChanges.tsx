import { useState } from "react";
import type { TextureSet } from "../../api/client";
import { useProjects } from "../../api/queries";
import { useSavedSettings } from "../../api/settings";
import { SaveSets } from "../../line/SaveSets";
import { Choice } from "../../parts/Choice";
import { Hint } from "../../parts/Hint";
import { Menu } from "../../parts/Menu";
import { TURNS } from "../../parts/moves";
import { SIZES } from "../../parts/sizes";
import { TypedField } from "../../parts/TypedField";
import { changesOf, SAVED } from "./changes";
import { OneValue } from "./OneValue";
import { RenameMany } from "./RenameMany";
import { useMany } from "./useMany";

type ManyChangesProps = { project: string; sets: TextureSet[]; all: TextureSet[] };

/** What the selected sets are changed by, all of them alike; one press takes it back. */
export function ManyChanges({ project, sets, all }: ManyChangesProps) {
  const { run, takeBack, left, said } = useMany(project);
  const [isNaming, setNaming] = useState(false);
  const { saved } = useSavedSettings();
  const changes = changesOf({ sets, all, saved, run });
  const { handleLike, handleValue, handleMove, handleSize, handleOrigin, handleNames } = changes;
  const { data: projects = [] } = useProjects();
  const elsewhere = projects.filter(({ name, is_away }) => name !== project && !is_away);
  const others = all.filter((set) => !sets.includes(set));
  return (
    <div className="flex basis-full flex-wrap items-center gap-3 text-sm">
      <Choice
        label="Make the selected sets like another"
        className="w-40"
        value=""
        options={[["", "Make like …"], ...saved.map(({ name }) => [SAVED + name, name] as const)]}
        group={{ title: "As another set is made", options: all.map(({ id, name }) => [id, name]) }}
        onChange={(key) => key && void handleLike(key)}
      />
      <Choice
        label="Size of the selected sets"
        className="w-32"
        value=""
        options={[["", "Longer side …"], ...SIZES.map((px) => [String(px), `${px} px`] as const)]}
        onChange={(px) => px && void handleSize(Number(px))}
      />
      <Menu
        label="Rotate or mirror"
        options={TURNS.map(([sign, says]) => [sign, `${sign} ${says}`] as const)}
        onPick={(sign) => {
          const turn = TURNS.find(([one]) => one === sign);
          if (turn) void handleMove(turn[2]);
        }}
      />
      <OneValue onDone={(...wanted) => void handleValue(...wanted)} />
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
      <Hint says="Another set made as each of them is now, from the same files.">
        <button type="button" className="button" onClick={() => void changes.handleCopies()}>
          Duplicate
        </button>
      </Hint>
      {elsewhere.length > 0 && (
        <Menu
          label="Copy into"
          options={elsewhere.map(({ name, title }) => [name, title] as const)}
          onPick={(key) => void changes.handleCopies(elsewhere.find(({ name }) => name === key))}
        />
      )}
      <SaveSets
        project={project}
        ids={sets.length === all.length ? [] : sets.map(({ id }) => id)}
        text="Save as a file"
      />
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
          onDone={(nameOf) => {
            setNaming(false);
            void handleNames(nameOf);
          }}
        />
      )}
    </div>
  );
}
