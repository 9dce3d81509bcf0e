import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, settled } from "../../api/client";
import { Problem } from "../../parts/grades";
import { whenSaid } from "../../parts/said";

/** Sets that were taken off the tray, and the press that puts one back. */
export function Removed({ project, count }: { project: string; count: number }) {
  const queries = useQueryClient();
  const { data: removed = [], error } = useQuery({
    queryKey: ["removed", project, count],
    queryFn: () =>
      settled(api.GET("/api/projects/{project}/removed", { params: { path: { project } } })),
  });
  const restore = useMutation({
    mutationFn: (set_id: string) =>
      settled(api.POST("/api/sets/{set_id}/restore", { params: { path: { set_id } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["sets", project] }),
  });
  if (!removed.length) return <Problem error={error} />;
  return (
    <details className="mt-6">
      <summary className="cursor-pointer text-ink2">
        Taken off the tray: {removed.length} {removed.length === 1 ? "set" : "sets"}
      </summary>
      <Problem error={restore.error} />
      <ul className="mt-2">
        {removed.map((set) => (
          <li key={set.id} className="flex items-center gap-3 border-t border-hair py-1.5">
            <b className="w-60 truncate font-semibold">{set.name}</b>
            <span className="text-ink2">{whenSaid(set.removed)}</span>
            <button
              type="button"
              className="button"
              aria-label={`Put back ${set.name}`}
              onClick={() => restore.mutate(set.id)}
            >
              Put back
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}
