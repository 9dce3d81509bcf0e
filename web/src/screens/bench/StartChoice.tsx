import { api, settled, type TextureSet } from "../../api/client";
import { useSetChange } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { useStarts } from "./hooks";

type StartChoiceProps = {
  set: TextureSet;
  project: string;
  master?: { key: string; title: string }; // left out: every master that is derived
};

/**
 * Lets a set, or one master of it, start as a kind of material does; plain is as it was at first.
 */
export function StartChoice({ set, project, master }: StartChoiceProps) {
  const start = useSetChange(project, set.id, (expects, kind: string) =>
    settled(
      api.POST("/api/sets/{set_id}/starts", {
        params: { path: { set_id: set.id } },
        body: { expects, start: kind, master: master?.key },
      }),
    ),
  );
  const kinds = useStarts();
  return (
    <>
      <Choice
        label={
          master ? `Start ${master.title} as a kind of material` : "Start as a kind of material"
        }
        className="w-44"
        value=""
        onChange={(kind) => kind && start.mutate(kind)}
        options={[
          ["", "a kind of material"],
          ...kinds.map((kind) => [kind.key, kind.title] as const),
        ]}
      />
      <Problem error={start.error} />
    </>
  );
}
