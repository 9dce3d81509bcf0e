import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { api, type Project, settled } from "../api/client";
import { Problem } from "../parts/grades";

type NameProjectProps = {
  projects: Project[];
  /** The one that is called otherwise; without it a new one is made. */
  renamed?: Project;
  onClose: () => void;
};

/** A name for a new project, or another one for a project that is there. */
export function NameProject({ projects, renamed, onClose }: NameProjectProps) {
  const [taken, setTaken] = useState<Project>();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const name = useMutation({
    mutationFn: (title: string) =>
      settled(
        renamed
          ? api.PUT("/api/projects/{project}", {
              params: { path: { project: renamed.name } },
              body: { title },
            })
          : api.POST("/api/projects", { body: { title } }),
      ),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ["projects"] });
      onClose();
      if (!renamed) navigate(`/p/${made.name}/intake`);
    },
  });
  const handleSubmit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const title = String(new FormData(event.currentTarget).get("title")).trim();
    const same = projects.find((one) => one !== renamed && isCalled(one, title));
    setTaken(same);
    if (title && !same) name.mutate(title);
  };
  return (
    <Dialog.Root open onOpenChange={(isOpen) => !isOpen && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-tag/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed z-40 top-1/3 left-1/2 w-96 -translate-x-1/2 border border-hair bg-sheet
            p-5"
        >
          <Dialog.Title className="mb-2">
            {renamed ? "Rename this project" : "New project"}
          </Dialog.Title>
          <form onSubmit={handleSubmit} className="flex flex-col gap-3">
            <label>
              Its name
              <input
                name="title"
                required
                maxLength={120}
                autoFocus
                defaultValue={renamed?.title}
                onFocus={(e) => e.target.select()}
                className="field mt-1 block w-full"
              />
            </label>
            {renamed && (
              <p className="text-sm text-ink2">
                Files and folders that carry its name are called anew by the next delivery.
              </p>
            )}
            {taken && (
              <p role="alert" className="text-stop">
                There is a project called {taken.title} already
                {taken.is_away ? ", which was put away" : ""}. Leave this to{" "}
                {taken.is_away ? "put it back" : "open it"} from the list, or type another name.
              </p>
            )}
            <Problem error={name.error} />
            <div className="flex gap-2">
              <button type="submit" className="button-main">
                {renamed ? "Rename" : "Make project"}
              </button>
              <Dialog.Close type="button" className="button">
                Leave it
              </Dialog.Close>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

const isCalled = (project: Project, title: string) =>
  project.title.toLowerCase() === title.toLowerCase();
