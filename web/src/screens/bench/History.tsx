import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, settled, type TextureSet } from "../../api/client";
import { useSetChange } from "../../api/queries";
import { Problem } from "../../parts/grades";
import { tied, whenSaid } from "../../parts/said";
import { Section } from "./Section";
import { useView } from "./view";

type HistoryProps = { set: TextureSet; project: string; isOpen: boolean; onOpen: () => void };

/**
 * Every step of a set, newest first: what it did, a name for those to find again, compare with any,
 * go back to any.
 */
export function History({ set, project, isOpen, onOpen }: HistoryProps) {
  const queries = useQueryClient();
  const look = useView((view) => view.look);
  const other = useView((view) => view.other);
  const show = useView((view) => view.set);
  const { data: versions = [], error } = useQuery({
    queryKey: ["versions", set.id, set.head],
    queryFn: () =>
      settled(api.GET("/api/sets/{set_id}/versions", { params: { path: { set_id: set.id } } })),
    enabled: isOpen,
    placeholderData: (before) => before,
  });
  const go = useSetChange(project, set.id, (expects, version: number) =>
    settled(
      api.POST("/api/sets/{set_id}/head", {
        params: { path: { set_id: set.id } },
        body: { expects, version },
      }),
    ),
  );
  const rename = useMutation({
    mutationFn: ({ version, name }: { version: number; name: string }) =>
      settled(
        api.PUT("/api/sets/{set_id}/versions/{version}/name", {
          params: { path: { set_id: set.id, version } },
          body: { name: name || null },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["versions", set.id] }),
  });
  const handleCompare = (version: number) =>
    show({ pictures: "divide", other: { ...other, [look]: `version:${version}` } });
  return (
    <Section
      title="History"
      says="every step, to compare with or go back to"
      path="M17 9v8l5 4M9 17a8 8 0 1 0 3-6M9 8v4h4"
      isOpen={isOpen}
      onOpen={onOpen}
    >
      <ol aria-label="Versions" className="max-h-64 overflow-auto py-1 pr-4 pl-8">
        {versions.map((version) => (
          <li
            key={version.id}
            className={`grid grid-cols-[1fr_auto] items-center gap-x-2 border-t border-hair py-1
              ${version.is_head ? "bg-wash" : ""}`}
          >
            <span className="text-sm first-letter:uppercase">
              {tied(version.note) || "changed"}
            </span>
            <span className="flex gap-1">
              <button
                type="button"
                className="button"
                disabled={version.is_head}
                onClick={() => handleCompare(version.id)}
              >
                Compare
              </button>
              <button
                type="button"
                className="button"
                disabled={version.is_head || go.isPending}
                onClick={() => go.mutate(version.id)}
              >
                Go there
              </button>
            </span>
            <span className="flex items-center gap-2 text-sm text-ink2">
              {whenSaid(version.created)}
              <input
                aria-label={`Name of the version ${version.note}`}
                key={version.name}
                defaultValue={version.name ?? ""}
                placeholder="name it"
                className="w-28 border-b border-hair bg-transparent text-ink placeholder:text-ink2"
                onBlur={(e) =>
                  e.currentTarget.value !== (version.name ?? "") &&
                  rename.mutate({ version: version.id, name: e.currentTarget.value })
                }
                onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
              />
            </span>
          </li>
        ))}
      </ol>
      <Problem error={error ?? go.error ?? rename.error} />
    </Section>
  );
}
