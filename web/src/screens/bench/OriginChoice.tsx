import { useQuery } from "@tanstack/react-query";
import { memo } from "react";
import { api, type Operation, settled, type TextureSet } from "../../api/client";
import { useSetChange } from "../../api/queries";
import { useOperations } from "../../api/tables";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { useView } from "./view";

type OriginChoiceProps = {
  set: TextureSet;
  project: string;
  master: { key: string; title: string };
  onDone?: (master: string) => void;
  className?: string;
};

/**
 * Where a master comes from: its files, the derivations that work in this set, one value, or
 * nothing.
 */
export const OriginChoice = memo(function OriginChoice({
  set,
  project,
  master,
  onDone,
  className = "min-w-0 grow",
}: OriginChoiceProps) {
  const path = { params: { path: { set_id: set.id } } };
  const origins = useOrigins(set)[master.key];
  const operations = useOperations();
  const pick = useView((view) => view.pick);
  const choose = useSetChange(
    project,
    set.id,
    (expects, origin: string) =>
      settled(
        api.POST("/api/sets/{set_id}/origins", {
          ...path,
          body: { expects, master: master.key, origin },
        }),
      ),
    (made) => {
      onDone?.(master.key);
      const node = made?.masters.find(({ key }) => key === master.key)?.node;
      if (node && lacksColor(operations, made, node)) pick({ node, value: "color" });
    },
  );
  const choices = origins?.choices ?? [];
  const lacking = Object.entries(origins?.needs ?? {});
  const now = choices.find((choice) => choice.is_now)?.key ?? "";
  return (
    <>
      <Choice
        label={`Where ${master.title} comes from`}
        className={className}
        value={now}
        onChange={(origin) => origin && choose.mutate(origin)}
        options={[
          ...(now ? [] : [["", "…"] as const]),
          ...choices.map(({ key, title }) => [key, title] as const),
        ]}
        group={
          lacking.length
            ? {
                title: "Not yet",
                isDisabled: true,
                options: lacking.map(
                  ([title, need]) => [title, `${title}: needs ${need}`] as const,
                ),
              }
            : undefined
        }
      />
      <Problem error={choose.error} />
    </>
  );
});

/** Is a step made of one color, and nobody has said which? */
function lacksColor(operations: Operation[], { recipe }: TextureSet, name: string): boolean {
  const node = recipe.nodes[name];
  const way = operations.find(({ key, number }) => key === node?.op && number === node.algorithm);
  const color = way?.params.find(({ kind }) => kind === "color");
  return color !== undefined && (node.params[color.name] ?? color.default) === null;
}

/** For every master of a set, the ways to come by it, and what others lack. */
export function useOrigins(set: TextureSet) {
  const { data } = useQuery({
    queryKey: ["origins", set.id, set.head],
    queryFn: () =>
      settled(
        api.GET("/api/sets/{set_id}/origins", {
          params: { path: { set_id: set.id }, query: { head: set.head } },
        }),
      ),
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  return data ?? {};
}

/** What an absent master is derived from, where the set has none of it yet: "needs height". */
export function needOf(origins: ReturnType<typeof useOrigins>[string] | undefined): string | null {
  const isDerivable = origins?.choices.some(({ key }) => key.startsWith("op:"));
  const needs = [...new Set(Object.values(origins?.needs ?? {}))];
  return isDerivable || !needs.length ? null : `needs ${needs.join(" or ")}`;
}

/** Where the other map of a mix comes in. */
export function MaskChoice({ set, project, master }: OriginChoiceProps) {
  const { data } = useQuery({
    queryKey: ["masks", set.id, set.head],
    queryFn: () =>
      settled(
        api.GET("/api/sets/{set_id}/masks", {
          params: { path: { set_id: set.id }, query: { head: set.head } },
        }),
      ),
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  const choose = useSetChange(project, set.id, (expects, mask: string) =>
    settled(
      api.POST("/api/sets/{set_id}/masks", {
        params: { path: { set_id: set.id } },
        body: { expects, master: master.key, mask },
      }),
    ),
  );
  const choices = data?.[master.key] ?? [];
  return (
    <div className="flex items-center gap-2 py-1.5 pr-4 pl-8">
      <span className="w-[84px] shrink-0">Mask</span>
      <Choice
        label={`Mask of the other ${master.title}`}
        className="min-w-0 grow"
        value={choices.find((choice) => choice.is_now)?.key ?? "everywhere"}
        onChange={(mask) => choose.mutate(mask)}
        options={choices.map(({ key, title }) => [key, title] as const)}
      />
      <Problem error={choose.error} />
    </div>
  );
}
