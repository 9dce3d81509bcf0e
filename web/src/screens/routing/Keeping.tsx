import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, sendBytes, settled, type Target } from "../../api/client";
import { ChooseFiles } from "../../parts/ChooseFiles";
import { Problem } from "../../parts/grades";

/** Whose a target is, and what can be done with it as a whole. */
export function Keeping({
  target,
  isOwn,
  onKey,
}: {
  target: Target;
  isOwn: boolean;
  onKey: (key: string | null) => void;
}) {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["targets"] });
  const copy = useMutation({
    mutationFn: () =>
      settled(api.POST("/api/targets", { body: { copy_of: target.key, title: "" } })),
    onSuccess: (made) => onKey(made.key),
    onSettled,
  });
  const take = useMutation({
    mutationFn: (file: File) =>
      sendBytes<Target>("/api/targets/import", file).catch(({ message }: Error) => {
        throw new Error(`${file.name}: ${message}`);
      }),
    onSuccess: (made) => onKey(made.key),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: () =>
      settled(api.DELETE("/api/targets/{key}", { params: { path: { key: target.key } } })),
    onSuccess: () => onKey(null),
    onSettled,
  });
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-2 text-sm text-ink2">
        <span>
          {isOwn
            ? `◆ Your own, version ${target.version}, changed ${target.changed}`
            : "Shipped: the first change makes a copy of your own"}
        </span>
        <span className="ml-auto flex gap-2">
          <button type="button" className="button" onClick={() => copy.mutate()}>
            Copy
          </button>
          <a className="button" href={`/api/targets/${target.key}/file`} download>
            Keep as file
          </a>
          <ChooseFiles
            label="Target from a file"
            accept=".toml"
            onChoose={([chosen]) => take.mutate(chosen)}
          />
          {isOwn && (
            <button type="button" className="button" onClick={() => remove.mutate()}>
              Remove
            </button>
          )}
        </span>
      </div>
      <Problem error={copy.error ?? take.error ?? remove.error} />
    </>
  );
}
