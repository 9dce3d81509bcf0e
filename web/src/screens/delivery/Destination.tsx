import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, settled } from "../../api/client";
import type { components } from "../../api/schema";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { TypedField } from "../../parts/TypedField";

type Sent = Required<components["schemas"]["DestinationRequest"]>;

const EACH: readonly { levels: Sent["each"]; title: string }[] = [
  { levels: ["set"], title: "a folder for each set" },
  { levels: ["set", "target"], title: "for each set, in it each target" },
  { levels: ["target", "set"], title: "for each target, in it each set" },
  { levels: [], title: "all files in this one folder" },
];

type DestinationProps = {
  project: string;
  target: { key: string; title: string };
  place: string | null; // where the files of the first set go
};

/** Where the files of a target go, for every set of the project: changed here, and remembered. */
export function Destination({ project, target, place }: DestinationProps) {
  const queries = useQueryClient();
  const path = { params: { path: { project, target: target.key } } };
  const { data } = useQuery({
    queryKey: ["destinations", project],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/destinations", { params: { path: { project } } })),
  });
  const send = useMutation({
    mutationFn: (to: Sent | null) =>
      to
        ? settled(
            api.PUT("/api/projects/{project}/destinations/{target}", {
              ...path,
              body: to,
            }),
          )
        : settled(api.DELETE("/api/projects/{project}/destinations/{target}", path)),
    onSuccess: (told) => {
      queries.setQueryData(["destinations", project], told);
      return queries.invalidateQueries({ queryKey: ["plans", project] });
    },
  });
  if (!data) return null;
  const sent = data.targets[target.key];
  return (
    <div className="mb-1 flex flex-wrap items-center gap-2 text-sm">
      <span className="text-ink2">Files go to</span>
      <Choice
        label={`Where files for ${target.title} go`}
        options={[
          ["", "the delivery’s own folder"],
          ...data.roots.map((root) => [`/${root}`, root] as const),
        ]}
        value={sent ? `/${sent.root}` : ""}
        onChange={(root) =>
          send.mutate(
            root ? { ...(sent ?? { below: "", each: ["set"] }), root: root.slice(1) } : null,
          )
        }
      />
      {sent && (
        <>
          /
          <TypedField
            label={`Path in ${sent.root}`}
            className="w-44"
            placeholder="Art/Cloth"
            value={sent.below}
            onDone={(below) => send.mutate({ ...sent, below })}
          />
          <Choice
            label="Folders in it"
            options={EACH.map(({ levels, title }) => [levels.join(), title] as const)}
            value={sent.each.join()}
            onChange={(each) =>
              send.mutate({
                ...sent,
                each: EACH.find(({ levels }) => levels.join() === each)?.levels ?? sent.each,
              })
            }
          />
        </>
      )}
      {place && <span className="file-name text-ink2">{place.split("/").join(" / ")}</span>}
      <Problem error={send.error} />
    </div>
  );
}
