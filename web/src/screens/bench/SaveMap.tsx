import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, settled, type TextureSet } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { Line } from "../../parts/Line";
import { lastingSaid } from "../../parts/lasting";
import { saveBlob } from "../../parts/saveBlob";
import { useView } from "./view";

type SaveMapProps = {
  set: TextureSet;
  master: TextureSet["masters"][number];
  /** Whether a step is on its way, which the file would not have yet. */
  isBusy: boolean;
};

/** One map as a file of its own, without a target; folded away until it is wanted. */
export function SaveMap({ set, master, isBusy }: SaveMapProps) {
  const [isOpen, setOpen] = useState(false);
  return (
    <section aria-label={`${master.title} as a file`} className="pb-1">
      <button
        type="button"
        aria-expanded={isOpen}
        className="cursor-pointer py-1 pl-8 text-sm text-ink2 underline"
        onClick={() => setOpen(!isOpen)}
      >
        Save as a file
      </button>
      {isOpen && <Ways set={set} master={master} isBusy={isBusy} />}
    </section>
  );
}

export function Ways({ set, master, isBusy }: SaveMapProps) {
  const { data, error } = useQuery({
    queryKey: ["writings", set.id, set.head, master.key],
    queryFn: () =>
      settled(
        api.GET("/api/sets/{set_id}/writings", {
          params: { path: { set_id: set.id }, query: { head: set.head, master: master.key } },
        }),
      ),
    placeholderData: (before) => before, // what is chosen stays while a step is on its way
  });
  const shown = useView((view) => view.tile);
  const [wanted, setWanted] = useState("");
  const [stored, setStored] = useState(isDeep(master.key) ? "png-16" : "png-8");
  const way = data?.ways.find(({ key }) => key === wanted) ?? data?.ways[0];
  const tiles = set.tiles;
  const tile = tiles.find((number) => number === shown) ?? tiles[0];
  const save = useMutation({
    mutationFn: async () => {
      const query = new URLSearchParams({ master: master.key, way: way?.key ?? "", stored });
      if (tile !== undefined) query.set("tile", String(tile));
      await saveBlob(`/api/sets/${set.id}/map?${query}`);
    },
  });
  if (!data || !way) return <Problem error={error} />;
  const lasts = lastingSaid(data.seconds);
  return (
    <div className="flex flex-col gap-2 pr-4 pb-2 pl-8">
      {data.ways.length > 1 && (
        <Line label="Written as">
          <Choice
            label={`What ${master.title} is written as`}
            className="min-w-0 grow"
            options={data.ways.map(({ key, title }) => [key, title] as const)}
            value={way.key}
            onChange={setWanted}
          />
        </Line>
      )}
      <Line label="Stored as">
        <Choice
          label={`How ${master.title} is stored`}
          className="min-w-0 grow"
          options={data.stored.map(({ key, title }) => [key, title] as const)}
          value={stored}
          onChange={setStored}
        />
        <button
          type="button"
          className="button shrink-0"
          disabled={isBusy || save.isPending}
          onClick={() => save.mutate()}
        >
          {save.isPending ? "Saving…" : `Save${tile === undefined ? "" : ` tile ${tile}`}`}
        </button>
      </Line>
      {lasts && <span className="text-sm text-ink2">It {lasts}.</span>}
      <Problem error={save.error} />
    </div>
  );
}

/** Maps whose steps of 8 bits are seen. */
const isDeep = (key: string) => ["height", "normal", "object_normal", "position"].includes(key);
