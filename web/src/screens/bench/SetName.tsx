import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, settled, type TextureSet } from "../../api/client";
import { Problem } from "../../parts/grades";

/** The set's name, and the press that changes it. What was delivered keeps its names. */
export function SetName({ project, set }: { project: string; set: TextureSet }) {
  const [isNaming, setNaming] = useState(false);
  const queries = useQueryClient();
  const rename = useMutation({
    mutationFn: (name: string) =>
      settled(
        api.PUT("/api/sets/{set_id}/name", {
          params: { path: { set_id: set.id } },
          body: { name },
        }),
      ),
    onSuccess: () => setNaming(false),
    onSettled: () => queries.invalidateQueries({ queryKey: ["sets", project] }),
  });
  const handleDone = (typed: string) => {
    const name = typed.trim();
    if (!name || name === set.name) setNaming(false);
    else rename.mutate(name);
  };
  if (!isNaming)
    return (
      <span className="flex min-w-0 grow items-center gap-2">
        <h1 className="truncate">{set.name}</h1>
        <button type="button" className="button" onClick={() => setNaming(true)}>
          Rename
        </button>
      </span>
    );
  return (
    <span className="grow">
      <input
        autoFocus
        aria-label="Name of this set"
        className="field w-full font-semibold"
        defaultValue={set.name}
        onFocus={(e) => e.currentTarget.select()}
        onBlur={(e) => handleDone(e.currentTarget.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") handleDone(e.currentTarget.value);
          if (e.key === "Escape") setNaming(false);
        }}
      />
      <Problem error={rename.error} />
    </span>
  );
}
