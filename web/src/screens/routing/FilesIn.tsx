import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useState } from "react";
import { useNavigate } from "react-router";
import {
  api,
  type FileLook,
  type FileReading,
  type IntakeEntry,
  keepFile,
  settled,
  type Target,
} from "../../api/client";
import { useQuantities } from "../../api/tables";
import { chosen, filesOf } from "../../line/dropped";
import { Choice } from "../../parts/Choice";
import { ChooseFiles } from "../../parts/ChooseFiles";
import { errorOf } from "../../parts/failures";
import { Problem } from "../../parts/grades";

/** Files by the role they are taken for, and those nobody placed yet. */
export type Given = { placed: Record<string, FileLook>; loose: FileLook[] };
export const NOTHING: Given = { placed: {}, loose: [] };

type Dropped = { file: File; folder: string }[];
type FilesInProps = {
  project: string;
  target: Target;
  given: Given;
  onGiven: (change: (given: Given) => Given) => void;
};

/**
 * The board read the other way: the target's files come in, and their channels become a set's
 * masters.
 */
export function FilesIn({ project, target, given, onGiven }: FilesInProps) {
  const readings = useReadings(target);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState<string | null>(null);
  const [busy, setBusy] = useState("");
  const [problem, setProblem] = useState<Error | null>(null);
  const [suggested, setSuggested] = useState("");

  const handleFiles = async (dropped: Dropped) => {
    setProblem(null);
    try {
      const looks: FileLook[] = [];
      for (const [k, { file, folder }] of dropped.entries()) {
        setBusy(`Reading file ${k + 1} of ${dropped.length}…`);
        looks.push(...(await keepFile(file, folder, null)).files);
      }
      const readable = looks.filter((look) => look.readable);
      const matches = readable.length
        ? await settled(
            api.GET("/api/targets/{key}/matches", {
              params: {
                path: { key: target.key },
                query: { name: readable.map((look) => look.name) },
              },
            }),
          )
        : [];
      const named = matches.find((match) => match.set)?.set ?? readable[0]?.set_name;
      if (named) setSuggested(named);
      onGiven((now) =>
        readable.reduce((held, look, k) => withFile(held, look, matches[k].role ?? null), now),
      );
      const broken = looks.filter((look) => !look.readable);
      if (broken.length)
        setProblem(
          new Error(
            broken
              .map((look) => look.findings?.[0]?.text ?? `${look.name} cannot be read.`)
              .join(" "),
          ),
        );
    } catch (problem) {
      setProblem(errorOf(problem));
    }
    setBusy("");
  };
  const handleDrop = (event: DragEvent) => {
    event.preventDefault();
    filesOf(event.dataTransfer.items).then(handleFiles, setProblem);
  };
  const handleTakeIn = async () => {
    setProblem(null);
    try {
      const entries = Object.entries(given.placed).flatMap(([role, look]) =>
        readings[role] && !faultOf(look, readings[role]) ? [entryOf(look, readings[role])] : [],
      );
      const made = await settled(
        api.POST("/api/projects/{project}/sets", {
          params: { path: { project } },
          body: { name: name ?? suggested, entries, values: {} },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["sets", project] });
      navigate(`/p/${project}/bench/${made.id}`);
    } catch (problem) {
      setProblem(errorOf(problem));
    }
  };
  const isReady = Object.entries(given.placed).some(
    ([role, look]) => readings[role] && !faultOf(look, readings[role]),
  );
  return (
    <aside
      aria-label="Files in"
      className="flex flex-col gap-3 scrolled border-l border-hair p-3.5"
    >
      <h2>Files of this target, read into a set</h2>
      <div
        onDragOver={(e) => e.preventDefault()}
        onDrop={handleDrop}
        className="flex flex-col items-center gap-2 rounded border border-dashed border-copper
          px-3 py-5 text-center"
      >
        <span>Drop one set’s files here; their names say which is which</span>
        <ChooseFiles
          label="Choose this target’s files"
          text="Choose files"
          isMany
          onChoose={(files) => void handleFiles(chosen(files))}
        />
      </div>
      {busy && (
        <p role="status" className="text-ink2">
          {busy}
        </p>
      )}
      <Problem error={problem} />
      <ul className="flex flex-col gap-2">
        {target.files.map((file) => {
          const look = given.placed[file.role];
          const fault = look && readings[file.role] ? faultOf(look, readings[file.role]) : null;
          return (
            <li key={file.role} className="border-t border-hair pt-2">
              <span className="font-semibold">{file.title}</span>
              {readings[file.role] ? (
                <PlacedFile
                  look={look}
                  onTaken={() => onGiven((now) => withoutRole(now, file.role))}
                />
              ) : (
                <p className="text-sm text-look">
                  ◆ One of its channels cannot be read by itself, so this file is not taken in.
                </p>
              )}
              {fault && <p className="text-sm text-stop">■ {fault}</p>}
            </li>
          );
        })}
      </ul>
      {given.loose.map((look) => (
        <p key={look.sha256} className="flex items-center gap-2 text-sm">
          <span className="file-name min-w-0 grow break-words">{look.name}</span>
          <Choice
            label={`Which file ${look.name} is`}
            className="w-28"
            options={[["", "is …"], ...target.files.map((f) => [f.role, f.title] as const)]}
            value=""
            onChange={(role) =>
              role &&
              onGiven((now) =>
                withFile({ ...now, loose: now.loose.filter((one) => one !== look) }, look, role),
              )
            }
          />
        </p>
      ))}
      {isReady && (
        <div className="flex items-center gap-2 border-t border-hair pt-3">
          <input
            aria-label="Name of the set"
            className="field min-w-0 grow"
            value={name ?? suggested}
            onChange={(e) => setName(e.target.value)}
          />
          <button
            type="button"
            className="button-main"
            disabled={!(name ?? suggested).trim()}
            onClick={() => void handleTakeIn()}
          >
            Take in
          </button>
        </div>
      )}
      <p className="text-sm text-ink2">
        Whatever the board says holds for reading too: route, invert or flip green first where a
        file was packed another way.
      </p>
    </aside>
  );
}

/**
 * How each file of a target is read backwards, by role; those that cannot be are not among them.
 */
export function useReadings(target: Target): Record<string, FileReading> {
  const { data = [] } = useQuery({
    queryKey: ["readings", target.key, target.version],
    queryFn: () => settled(api.GET("/api/readings")),
    staleTime: Infinity,
  });
  return Object.fromEntries(
    data.filter((reading) => reading.key === target.key).map((reading) => [reading.role, reading]),
  );
}

/** Address of the picture that a master's row shows, and where it comes from. */
export function usePictureOf(
  target: Target,
  given: Given,
): (master: string) => { src: string; from: string } | null {
  const readings = useReadings(target);
  const quantities = useQuantities();
  const masterOf = (key: string) => quantities.find((q) => q.key === key)?.master ?? key;
  return (master) => {
    for (const file of target.files) {
      const look = given.placed[file.role];
      const group =
        look &&
        Object.entries(readings[file.role]?.reads ?? {}).find(
          ([, key]) => masterOf(key) === master,
        )?.[0];
      if (look && group)
        return {
          src: `/api/originals/${look.sha256}/${group.length > 1 ? "thumbnail" : `channels/${group}`}`,
          from: `${file.title}, ${[...group].join(" ")}`,
        };
    }
    return null;
  };
}

function withoutRole({ placed, loose }: Given, role: string): Given {
  const { [role]: _, ...rest } = placed;
  return { placed: rest, loose };
}

function withFile(given: Given, look: FileLook, role: string | null): Given {
  const isTaken =
    role !== null && given.placed[role] !== undefined && given.placed[role].sha256 !== look.sha256;
  return role && !isTaken
    ? { ...given, placed: { ...given.placed, [role]: look } }
    : { ...given, loose: [...given.loose, look] };
}

function faultOf(look: FileLook, reading: FileReading): string | null {
  const count = look.letters?.length ?? 1;
  return count === reading.channels
    ? null
    : `${look.name} has ${count} ${count === 1 ? "channel" : "channels"}; this file of the target has ${reading.channels}.`;
}

function entryOf(look: FileLook, reading: FileReading): IntakeEntry {
  const keys = Object.values(reading.reads);
  return {
    sha256: look.sha256,
    name: look.name,
    kind: keys.length === 1 ? keys[0] : "packed",
    reads: reading.reads,
    spans: reading.spans,
    corrections: {},
    green: reading.green,
    tiles: look.tiles,
    beside: {},
  };
}

/** The file that stands for one of the target's, and the way to take it out. */
function PlacedFile({ look, onTaken }: { look: FileLook | undefined; onTaken: () => void }) {
  if (!look) return <p className="text-sm text-ink2">no file yet</p>;
  return (
    <p className="flex items-center gap-2">
      <span className="file-name min-w-0 grow break-words">{look.name}</span>
      <button
        type="button"
        className="button"
        aria-label={`Take ${look.name} out`}
        onClick={onTaken}
      >
        ×
      </button>
    </p>
  );
}
