import { api, settled, type TextureSet } from "../../api/client";
import { useSetChange, useSets } from "../../api/queries";
import type { components } from "../../api/schema";
import { Choice } from "../../parts/Choice";
import { ChooseFiles } from "../../parts/ChooseFiles";
import { Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";

type HowMade = components["schemas"]["SettingsRequest"]["settings"];

/** Use the settings of another set, or of a file; or save this set's as a file. Given maps stay. */
export function SettingsOf({ set, project }: { set: TextureSet; project: string }) {
  const { data: sets = [] } = useSets(project);
  const path = { params: { path: { set_id: set.id } } };
  const take = useSetChange(
    project,
    set.id,
    async (expects, source: { set: string } | { file: File }) => {
      const settings =
        "set" in source
          ? await settled(
              api.GET("/api/sets/{set_id}/settings", { params: { path: { set_id: source.set } } }),
            )
          : await readSettings(source.file);
      return settled(
        api.POST("/api/sets/{set_id}/settings", { ...path, body: { expects, settings } }),
      );
    },
  );
  return (
    <>
      <div className="flex items-center gap-1.5">
        <span className="w-[70px] shrink-0">Settings</span>
        <Choice
          label="Use the settings of another set"
          className="w-36"
          value=""
          onChange={(id) => id && take.mutate({ set: id })}
          options={[
            ["", "of another set"],
            ...sets.filter((s) => s.id !== set.id).map((s) => [s.id, s.name] as const),
          ]}
        />
        <ChooseFiles
          label="Use the settings of a file"
          accept=".json"
          onChoose={([file]) => take.mutate({ file })}
        />
        <Hint says="Save how this set is made as a file">
          <a
            className="button"
            href={`/api/sets/${set.id}/settings`}
            download={`${set.name} settings.json`}
          >
            Save
          </a>
        </Hint>
      </div>
      <Problem error={take.error} />
    </>
  );
}

async function readSettings(file: File): Promise<HowMade> {
  try {
    return JSON.parse(await file.text()) as HowMade; // what it says is checked by the server
  } catch {
    throw new Error(
      `${file.name} holds no settings: it is no JSON. Choose a file that was made by Save.`,
    );
  }
}
