import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Dialog, DropdownMenu } from "radix-ui";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { api, settled } from "../api/client";
import { useProjects } from "../api/queries";
import { Problem } from "../parts/grades";

/** Which project this is, the others, and a new one. */
export function Projects({ project }: { project: string }) {
  const { data: projects = [] } = useProjects();
  const [isNaming, setNaming] = useState(false);
  const [taken, setTaken] = useState("");
  const navigate = useNavigate();
  const queries = useQueryClient();
  const create = useMutation({
    mutationFn: (title: string) => settled(api.POST("/api/projects", { body: { title } })),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ["projects"] });
      setNaming(false);
      navigate(`/p/${made.name}/intake`);
    },
  });
  const handleSubmit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const title = String(new FormData(event.currentTarget).get("title")).trim();
    const isTaken = projects.some((p) => p.title.toLowerCase() === title.toLowerCase());
    setTaken(isTaken ? title : "");
    if (!isTaken) create.mutate(title);
  };
  const startNaming = () => {
    setTaken("");
    create.reset();
    setNaming(true);
  };
  const item = "flex cursor-pointer px-3 py-1 outline-none data-highlighted:bg-wash";
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="button border-transparent bg-transparent text-ink2">
          {projects.find((p) => p.name === project)?.title ?? project} ▾
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" className="min-w-52 border border-hair bg-sheet py-1">
            {projects.map((p) => (
              <DropdownMenu.Item
                key={p.name}
                className={item}
                onSelect={() => navigate(`/p/${p.name}/tray`)}
              >
                {p.title}
              </DropdownMenu.Item>
            ))}
            <DropdownMenu.Separator className="my-1 h-px bg-hair" />
            <DropdownMenu.Item className={item} onSelect={startNaming}>
              New project…
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <Dialog.Root open={isNaming} onOpenChange={setNaming}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-40 bg-tag/40" />
          <Dialog.Content
            aria-describedby={undefined}
            className="fixed z-40 top-1/3 left-1/2 w-96 -translate-x-1/2 border border-hair
              bg-sheet p-5"
          >
            <Dialog.Title className="mb-2">New project</Dialog.Title>
            <form onSubmit={handleSubmit} className="flex flex-col gap-3">
              <label>
                Its name
                <input
                  name="title"
                  required
                  maxLength={120}
                  autoFocus
                  className="field mt-1 block w-full"
                />
              </label>
              {taken && (
                <p role="alert" className="text-stop">
                  There is a project called {taken} already. Leave this to open it from the list, or
                  give the new one another name.
                </p>
              )}
              <Problem error={create.error} />
              <div className="flex gap-2">
                <button type="submit" className="button-main">
                  Make project
                </button>
                <Dialog.Close type="button" className="button">
                  Leave it
                </Dialog.Close>
              </div>
            </form>
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </>
  );
}
