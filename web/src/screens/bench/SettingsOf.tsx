import { useState } from "react";
import type { TextureSet } from "../../api/client";
import { useSetChange, useSets } from "../../api/queries";
import {
  madeBy,
  type Settings,
  settingsOf,
  useFittingSettings,
  useSavedSettings,
} from "../../api/settings";
import { Choice } from "../../parts/Choice";
import { ChooseFiles } from "../../parts/ChooseFiles";
import { Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";
import { Line } from "../../parts/Line";
import { Menu } from "../../parts/Menu";

type SettingsProps = { set: TextureSet; project: string };

/**
 * Use settings that were saved, of another set, or of a file; or save this set's. Given maps stay.
 */
export function SettingsOf({ set, project }: SettingsProps) {
  const { data: sets = [] } = useSets(project);
  const { saved } = useSavedSettings();
  const take = useSetChange(project, set.id, async (expects, from: () => Promise<Settings>) =>
    madeBy(set.id, expects, await from()),
  );
  const handleChoice = (key: string) => {
    const one = saved.find(({ name }) => SAVED + name === key);
    if (key) take.mutate(async () => one?.settings ?? settingsOf(key));
  };
  return (
    <>
      <Line label="Settings">
        <Choice
          label="Use settings"
          className="w-40"
          value=""
          onChange={handleChoice}
          options={[["", "Use those …"], ...saved.map(({ name }) => [SAVED + name, name] as const)]}
          group={{
            title: "Of another set",
            options: sets
              .filter((other) => other.id !== set.id)
              .map(({ id, name }) => [id, name] as const),
          }}
        />
        <ChooseFiles
          label="Use the settings of a file"
          accept=".json"
          onChoose={([file]) => take.mutate(() => readSettings(file))}
        />
      </Line>
      <Problem error={take.error} />
      <SaveSettings set={set} />
    </>
  );
}

const SAVED = "saved "; // before a name, apart from the ids of sets

/** Save how a set is made under a name, for sets of every project. */
function SaveSettings({ set }: { set: TextureSet }) {
  const { saved, save, forget } = useSavedSettings();
  const [typed, setTyped] = useState("");
  const name = typed.trim();
  const isThere = saved.some((one) => one.name === name);
  return (
    <>
      <form
        className="flex items-center gap-1.5 pl-[76px]"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate({ name, set }, { onSuccess: () => setTyped("") });
        }}
      >
        <input
          aria-label="Name to save these settings under"
          className="field w-40"
          placeholder="Name to save under"
          maxLength={80}
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <button type="submit" className="button" disabled={!name || save.isPending}>
          {isThere ? "Replace" : "Save"}
        </button>
      </form>
      <div className="flex items-center gap-1.5 pl-[76px]">
        <Hint says="Save how this set is made as a file">
          <a
            className="button"
            href={`/api/sets/${set.id}/settings`}
            download={`${set.name} settings.json`}
          >
            Save as file
          </a>
        </Hint>
        {saved.length > 0 && (
          <Menu
            label="Forget"
            options={saved.map((one) => [one.name, one.name] as const)}
            onPick={(one) => forget.mutate(one)}
          />
        )}
      </div>
      {save.isSuccess && !typed && (
        <p role="status" className="pl-[76px] text-sm text-ink2">
          Saved. It is offered for sets that it fits.
        </p>
      )}
      <Problem error={save.error ?? forget.error} />
    </>
  );
}

/**
 * Saved settings that fit a set as it was taken in, one press each; gone after its first change.
 */
export function SettingsOffered({ set, project }: SettingsProps) {
  const fitting = useFittingSettings(set, !set.can_undo);
  const take = useSetChange(project, set.id, (expects, settings: Settings) =>
    madeBy(set.id, expects, settings),
  );
  if (set.can_undo || fitting.length === 0) return null;
  const titleOf = (key: string) => set.masters.find((master) => master.key === key)?.title ?? key;
  return (
    <div
      role="group"
      aria-label="Saved settings that fit"
      className="flex flex-wrap items-center gap-1.5 px-4 pb-2 text-sm"
    >
      <span className="text-ink2">Saved settings that fit</span>
      {fitting.map(({ name, settings, changes }) => (
        <Hint key={name} says={`Changes ${changes.map(titleOf).join(", ").toLowerCase()}`}>
          <button
            type="button"
            className="button"
            disabled={take.isPending}
            onClick={() => take.mutate(settings)}
          >
            {name}
          </button>
        </Hint>
      ))}
      <Problem error={take.error} />
    </div>
  );
}

async function readSettings(file: File): Promise<Settings> {
  try {
    const said: Settings = JSON.parse(await file.text()); // the server checks what it says
    return said;
  } catch {
    throw new Error(
      `${file.name} holds no settings: it is no JSON. Choose a file that was made by Save as file.`,
    );
  }
}
