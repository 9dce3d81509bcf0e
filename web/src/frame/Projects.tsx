import { useMutation, useQueryClient } from "@tanstack/react-query";
import { DropdownMenu } from "radix-ui";
import { Fragment, useState } from "react";
import { useNavigate } from "react-router";
import { api, type Project, settled } from "../api/client";
import { useProjects, useSets } from "../api/queries";
import { savedSetsAddress } from "../api/savedSets";
import { useKeepsUp } from "../line/keepsUp";
import { Problem } from "../parts/grades";
import { DeleteProject } from "./DeleteProject";
import { NameProject } from "./NameProject";

const LIST = "z-30 max-h-[70vh] min-w-52 overflow-auto border border-hair bg-sheet py-1";
const ITEM =
  "flex cursor-pointer px-3 py-1 outline-none data-highlighted:bg-wash data-disabled:opacity-50";

/** Which project this is, the others, a new one, and what is done with this one. */
export function Projects({ project }: { project: string }) {
  const { data: projects = [] } = useProjects();
  const [naming, setNaming] = useState<"new" | "this" | null>(null);
  const [deleting, setDeleting] = useState<Project | null>(null);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { data: sets = [] } = useSets(project);
  const keeps = useKeepsUp(project);
  const putAway = useMutation({
    mutationFn: ({ name, isAway }: { name: string; isAway: boolean }) =>
      settled(
        api.PUT("/api/projects/{project}", {
          params: { path: { project: name } },
          body: { is_away: isAway },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["projects"] }),
    onSuccess: ({ name, is_away }) => {
      const next = is_away ? others[0]?.name : name;
      if (next) navigate(`/p/${next}/tray`);
    },
  });
  const here = projects.find(({ name }) => name === project);
  const shown = projects.filter(({ is_away }) => !is_away);
  const others = shown.filter((one) => one !== here);
  const away = projects.filter(({ is_away }) => is_away);
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="button border-transparent bg-transparent text-ink2">
          {here?.title ?? project}
          {here?.is_away && " (put away)"} ▾
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" className={LIST}>
            {shown.map(({ name, title }) => (
              <DropdownMenu.Item
                key={name}
                className={ITEM}
                onSelect={() => navigate(`/p/${name}/tray`)}
              >
                {title}
              </DropdownMenu.Item>
            ))}
            <Line />
            <DropdownMenu.Item className={ITEM} onSelect={() => setNaming("new")}>
              New project…
            </DropdownMenu.Item>
            {here && (
              <DropdownMenu.Item className={ITEM} onSelect={() => setNaming("this")}>
                Rename this project…
              </DropdownMenu.Item>
            )}
            <DropdownMenu.Item className={ITEM} disabled={!sets.length} asChild>
              <a href={savedSetsAddress(project)} download>
                Save all its sets as a file
              </a>
            </DropdownMenu.Item>
            {here && !here.is_away && (
              <DropdownMenu.Item
                className={ITEM}
                disabled={!others.length}
                onSelect={() => putAway.mutate({ name: project, isAway: true })}
              >
                Put this project away
              </DropdownMenu.Item>
            )}
            <Line />
            <DropdownMenu.Label className="px-3 py-1 text-sm text-ink2">
              This project does by itself
            </DropdownMenu.Label>
            <DropdownMenu.CheckboxItem
              className={ITEM}
              checked={keeps.takesNewer}
              onCheckedChange={(is) => keeps.change({ takes_newer: is })}
            >
              <Tick isOn={keeps.takesNewer} /> Take newer files of linked folders
            </DropdownMenu.CheckboxItem>
            <DropdownMenu.CheckboxItem
              className={ITEM}
              checked={keeps.deliversChanges}
              onCheckedChange={(is) => keeps.change({ delivers_changes: is })}
            >
              <Tick isOn={keeps.deliversChanges} /> Deliver again after every change
            </DropdownMenu.CheckboxItem>
            {away.length > 0 && (
              <PutAway
                projects={away}
                onBack={(name) => putAway.mutate({ name, isAway: false })}
                onDelete={setDeleting}
              />
            )}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <Problem error={putAway.error} />
      {deleting && <DeleteProject project={deleting} onClose={() => setDeleting(null)} />}
      {naming && (
        <NameProject
          projects={projects}
          renamed={naming === "this" ? here : undefined}
          onClose={() => setNaming(null)}
        />
      )}
    </>
  );
}

type PutAwayProps = {
  projects: Project[];
  onBack: (name: string) => void;
  onDelete: (project: Project) => void;
};

/** Projects that are not needed for now, each to be put back with all that is in it. */
function PutAway({ projects, onBack, onDelete }: PutAwayProps) {
  return (
    <>
      <Line />
      <DropdownMenu.Label className="px-3 py-1 text-sm text-ink2">Put away</DropdownMenu.Label>
      {projects.map((one) => (
        <Fragment key={one.name}>
          <DropdownMenu.Item className={ITEM} onSelect={() => onBack(one.name)}>
            Put {one.title} back
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => onDelete(one)}>
            Delete {one.title} for good…
          </DropdownMenu.Item>
        </Fragment>
      ))}
    </>
  );
}

const Tick = ({ isOn }: { isOn: boolean }) => (
  <span aria-hidden className="w-5">
    {isOn && "✓"}
  </span>
);

const Line = () => <DropdownMenu.Separator className="my-1 h-px bg-hair" />;
