import { useQuery } from "@tanstack/react-query";
import { api, type Board, type Plan, settled, type TextureSet } from "../../api/client";
import type { HoleAt } from "./HoleBoard";

type HoleDetailProps = { board: Board; set: TextureSet | undefined; plan: Plan | undefined; at: HoleAt };

/** One hole: its channel as the target gets it, beside the master it comes from. */
export function HoleDetail({ board, set, plan, at }: HoleDetailProps) {
  const file = board.files.find((f) => f.role === at.role)!;
  const hole = file.holes.find((h) => h.letter === at.letter)!;
  const row = board.rows.find((r) => r.key === hole.master);
  const isGiven = set?.masters.some((m) => m.key === hole.master && m.origin !== "absent");
  const images = plan?.files.filter((f) => f.left_out === null) ?? [];
  return (
    <aside aria-label="Hole" className="overflow-auto border-l border-hair p-3.5">
      <h2>{file.title} · {hole.letter}</h2>
      <p className="mb-2 text-ink2">{hole.meaning}</p>
      {set && (
        <div className="mb-2 grid grid-cols-2 gap-2 text-sm text-ink2">
          <figure>
            {isGiven ? <img alt={`Master ${row?.title}`} className="aspect-square w-full bg-surround object-cover" src={`/api/sets/${set.id}/swatch?head=${set.head}&show=${hole.master}`} /> : <div className="grid aspect-square place-items-center border border-dashed border-ink2 p-2 text-center">{row ? "not in this set" : "no master"}</div>}
            <figcaption>{row ? `Master: ${row.title}` : "Constant"}</figcaption>
          </figure>
          <figure>
            <img alt={`Channel ${hole.letter} of ${file.title}`} className="aspect-square w-full bg-surround object-cover" src={`/api/sets/${set.id}/channels?head=${set.head}&target=${board.key}&role=${at.role}&letter=${at.letter}`} />
            <figcaption>Channel: {hole.letter}</figcaption>
          </figure>
        </div>
      )}
      {set && isGiven && <Difference set={set} board={board} at={at} />}
      <dl className="mb-4 grid grid-cols-[1fr_auto] gap-y-1 [&_dd]:text-right">
        <dt>Comes through</dt><dd>{hole.feed}</dd>
        <dt>Stored range</dt><dd>{hole.low} … {hole.high}</dd>
        <dt>When the set has none</dt><dd>{hole.absent === null ? "not written" : hole.absent.toFixed(2)}</dd>
        {file.use && <><dt className="col-span-2 text-ink2">Goes to the {file.use}.</dt></>}
      </dl>
      {images.length > 0 && <h2 className="mb-1">Names for this set</h2>}
      {images.map((f) => <p key={f.role} className="file-name break-words py-0.5">{f.name}</p>)}
    </aside>
  );
}

/** What storing costs: the channel read back beside its source, as a picture and in numbers. */
function Difference({ set, board, at }: { set: TextureSet; board: Board; at: HoleAt }) {
  const query = { head: set.head, target: board.key, role: at.role, letter: at.letter };
  const { data } = useQuery({
    queryKey: ["difference", set.id, query],
    queryFn: () => settled(api.GET("/api/sets/{set_id}/channels/difference", { params: { path: { set_id: set.id }, query } })),
    staleTime: Infinity,
  });
  if (!data) return <p className="mb-3 text-sm text-ink2">Comparing…</p>;
  if (data.largest === null || data.largest === undefined) return null;
  const steps = data.step ? data.largest / data.step : 0;
  return (
    <figure className="mb-4 grid grid-cols-2 gap-2 text-sm text-ink2">
      <img alt="Difference" className="aspect-square w-full bg-surround object-cover" src={`/api/sets/${set.id}/channels?${new URLSearchParams({ ...query, head: String(set.head), show: "difference" })}`} />
      <figcaption className="self-end">
        Difference from its source: at most {data.largest.toPrecision(2)}, on average {data.mean!.toPrecision(2)}.<br />
        {data.largest === 0 ? "The file holds it exactly." : `That is ${steps.toFixed(2)} of one step of the file; half a step shows as mid gray.`}
      </figcaption>
    </figure>
  );
}
