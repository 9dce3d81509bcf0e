import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { AlertDialog } from "radix-ui";
import { api, type Project, settled } from "../api/client";
import { savedSetsAddress } from "../api/savedSets";
import { bytesSaid } from "../line/counted";
import { Problem } from "../parts/grades";

type DeleteProjectProps = { project: Project; onClose: () => void };

/** Before a project goes for good: what goes with it, what stays, and how to keep its sets. */
export function DeleteProject({ project: { name, title }, onClose }: DeleteProjectProps) {
  const queries = useQueryClient();
  const path = { params: { path: { project: name } } };
  const weight = useQuery({
    queryKey: ["weight", name],
    queryFn: () => settled(api.GET("/api/projects/{project}/weight", path)),
  });
  const remove = useMutation({
    mutationFn: () => settled(api.DELETE("/api/projects/{project}", path)),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["projects"] });
      onClose();
    },
  });
  return (
    <AlertDialog.Root open onOpenChange={(isOpen) => !isOpen && onClose()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-tag/40" />
        <AlertDialog.Content
          className="fixed top-1/3 left-1/2 z-40 flex w-[440px] -translate-x-1/2 flex-col gap-3
            border border-hair bg-sheet p-5"
        >
          <AlertDialog.Title>Delete {title} for good?</AlertDialog.Title>
          <AlertDialog.Description>
            {weight.data ? goesSaid(weight.data) : "Looking at what goes with it…"} What was
            delivered stays in its folders. This cannot be taken back.
          </AlertDialog.Description>
          <Problem error={weight.error ?? remove.error} />
          <div className="flex flex-wrap gap-2">
            <AlertDialog.Cancel className="button">Leave it</AlertDialog.Cancel>
            {(weight.data?.sets ?? 0) > 0 && (
              <a className="button" href={savedSetsAddress(name)} download>
                Save its sets as a file
              </a>
            )}
            <button
              type="button"
              className="button ml-auto text-stop"
              disabled={!weight.data || remove.isPending}
              onClick={() => remove.mutate()}
            >
              Delete for good
            </button>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}

/** "3 sets go with all their steps, and 120 MB of files that no other project uses." */
export function goesSaid({ sets, bytes }: { sets: number; bytes: number }): string {
  if (!sets) return "It holds no sets.";
  const what =
    sets === 1 ? "1 set goes with all its steps" : `${sets} sets go with all their steps`;
  return bytes
    ? `${what}, and ${bytesSaid(bytes)} of files that no other project uses.`
    : `${what}; ${sets === 1 ? "its" : "their"} files stay, as other projects use them.`;
}
