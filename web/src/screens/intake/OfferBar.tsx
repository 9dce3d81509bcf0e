import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api, settled } from "../../api/client";
import type { components } from "../../api/schema";
import { Choice } from "../../parts/Choice";
import { idOf } from "../../parts/idOf";
import type { Row } from "./rows";

export type Offer = components["schemas"]["Offer"];

type OfferBarProps = { rows: Row[]; onTake: (offer: Offer) => void };

/**
 * Files that are named and built as a target's own: one press reads all of them by its table. Sets
 * of different targets stand apart.
 */
export function OfferBar({ rows, onTake }: OfferBarProps) {
  const files = useMemo(() => rows.filter(isMeant).map(offered), [rows]);
  const { data: offers = [] } = useQuery({
    queryKey: ["offers", idOf(files)],
    queryFn: () => settled(api.POST("/api/readings/offers", { body: { files } })),
    enabled: files.length > 1 && files.length <= 5000,
  });
  const groups = Map.groupBy(offers, (offer) =>
    [...new Set(offer.files.map((file) => file.set))].sort().join(", "),
  );
  return (
    <>
      {[...groups].map(([sets, same]) => (
        <OfferLine key={sets} sets={sets} offers={same} onTake={onTake} />
      ))}
    </>
  );
}

const isMeant = (row: Row) => row.look.readable && !row.isLeftOut;

const offered = ({ look }: Row) => ({
  name: look.name,
  channels: look.letters?.length ?? 1,
  reads: look.reads,
  spans: look.spans,
  green: look.green === "unsure" ? null : look.green,
});

function OfferLine({
  sets,
  offers,
  onTake,
}: {
  sets: string;
  offers: Offer[];
  onTake: (offer: Offer) => void;
}) {
  const [at, setAt] = useState(0);
  const chosen = Math.min(at, offers.length - 1);
  const offer = offers[chosen];
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2 rounded bg-wash px-3 py-1.5">
      <span>
        {sets}: {offer.files.length} files are named and built as those of
      </span>
      {offers.length > 1 ? (
        <Choice
          label={`Target whose files ${sets} look like`}
          className="w-80"
          value={String(chosen)}
          options={offers.map((one, k) => [String(k), one.title] as const)}
          onChange={(next) => setAt(Number(next))}
        />
      ) : (
        <b>{offer.title}</b>
      )}
      <button type="button" className="button" onClick={() => onTake(offer)}>
        Read them as its files
      </button>
      <span className="text-ink2">{offer.changes} would be read otherwise than now.</span>
    </div>
  );
}
