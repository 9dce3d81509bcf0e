import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
  api,
  type Board,
  type Plan,
  settled,
  type Target,
  type TextureSet,
} from "../../api/client";
import { usePlans } from "../../api/queries";
import { useQuantities } from "../../api/tables";
import { addressed } from "../../parts/addressed";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { Line } from "../../parts/Line";
import { NumberField } from "../../parts/NumberField";
import { sure } from "../../parts/sure";
import { meaning } from "../../parts/words";
import { BLACK, type Channel, componentsOf, feeding, withChannel } from "./edit";
import { FilePanel } from "./FilePanel";
import type { HoleAt } from "./HoleBoard";

type HoleDetailProps = {
  project: string;
  sets: TextureSet[];
  board: Board;
  target: Target;
  set: TextureSet | undefined;
  plan: Plan | undefined;
  at: HoleAt;
  onChange: (change: (target: Target) => Target) => void;
};

/** In place of a picture that there is none of. */
const Nothing = ({ children }: { children: string }) => (
  <div className="grid aspect-square place-items-center border border-dashed border-ink2 p-2 text-center">
    {children}
  </div>
);

/** One hole: its channel as the target gets it, beside the master it comes from. */
export function HoleDetail({
  project,
  sets,
  board,
  target,
  set,
  plan,
  at,
  onChange,
}: HoleDetailProps) {
  const file = sure(
    board.files.find((f) => f.role === at.role),
    at.role,
  );
  const hole = sure(
    file.holes.find((h) => h.letter === at.letter),
    at.letter,
  );
  const row = board.rows.find((r) => r.key === hole.master);
  const isGiven = set?.masters.some((m) => m.key === hole.master && m.origin !== "absent");
  const table = sure(
    target.files.find((f) => f.role === at.role),
    at.role,
  );
  const [chosenTile, setTile] = useState<number | null>(null);
  const tiles = set?.tiles ?? [];
  const tile = chosenTile !== null && tiles.includes(chosenTile) ? chosenTile : (tiles[0] ?? null);
  const ofTile = tile === null ? "" : `&tile=${tile}`;
  const planned = plan?.files.find((f) => f.role === at.role && f.tile === tile);
  const isWritten = !planned?.left_out;
  const fill = planned?.channels.find((c) => c.letter === hole.letter && c.content === "fill");
  const images = new Map(
    plan?.files.filter((f) => f.left_out === null).map((f) => [f.role, f.pattern ?? f.name]),
  );
  return (
    <aside aria-label="Hole" className="scrolled border-l border-hair p-3.5">
      <h2>
        Channel {hole.letter}: {hole.meaning}
      </h2>
      <p className="mb-2 text-ink2">of {file.title}</p>
      {planned?.left_out && <p className="mb-2 text-look">Not written: {planned.why}.</p>}
      {isWritten && fill && (
        <p className="mb-2 text-look">
          A fill: {fill.value} everywhere, {fill.why}.
        </p>
      )}
      {tile !== null && (
        <Choice
          label="Tile"
          className="mb-2"
          options={tiles.map((number) => [String(number), `Tile ${number}`] as const)}
          value={String(tile)}
          onChange={(key) => setTile(Number(key))}
        />
      )}
      {set && (
        <div className="mb-2 grid grid-cols-2 gap-2 text-sm text-ink2">
          <figure>
            {isGiven ? (
              <img
                alt={`Master ${row?.title}`}
                className="aspect-square w-full bg-surround object-contain"
                src={`/api/sets/${set.id}/swatch?head=${set.head}&show=${hole.master}${ofTile}`}
              />
            ) : (
              <Nothing>{row ? "not in this set" : "no master"}</Nothing>
            )}
            <figcaption>{row ? `Master: ${row.title}` : "Constant"}</figcaption>
          </figure>
          <figure>
            {isWritten ? (
              <img
                alt={`Channel ${hole.letter} of ${file.title}`}
                className="aspect-square w-full bg-surround object-contain"
                src={`/api/sets/${set.id}/channels?head=${set.head}&target=${board.key}&role=${at.role}&letter=${at.letter}&version=${target.version}${ofTile}`}
              />
            ) : (
              <Nothing>not written</Nothing>
            )}
            <figcaption>Channel: {hole.letter}</figcaption>
          </figure>
        </div>
      )}
      {set && isGiven && isWritten && (
        <Difference set={set} board={board} version={target.version ?? ""} at={at} tile={tile} />
      )}
      <ChannelEdit
        key={at.role + at.letter}
        channel={sure(table.channels[at.letter], at.letter)}
        letter={at.letter}
        onChange={(channel) => onChange((now) => withChannel(now, at.role, at.letter, channel))}
      />
      {file.use && <p className="mb-3 text-sm text-ink2">Goes to the {file.use}.</p>}
      <FilePanel
        target={target}
        file={table}
        memory={planned ? { plain: planned.memory_plain, block: planned.memory_block } : null}
        onChange={onChange}
      />
      {images.size > 0 && <h2 className="mb-1">Names for this set</h2>}
      {[...images].map(([role, name]) => (
        <p key={role} className="file-name break-words py-0.5">
          {name}
        </p>
      ))}
      <OtherNames
        project={project}
        sets={sets.filter((s) => s.id !== set?.id)}
        target={target}
        role={at.role}
        title={file.title}
      />
    </aside>
  );
}

/** What storing costs: the channel read back beside its source, as a picture and in numbers. */
function Difference({
  set,
  board,
  version,
  at,
  tile,
}: {
  set: TextureSet;
  board: Board;
  version: string;
  at: HoleAt;
  tile: number | null;
}) {
  const query = {
    head: set.head,
    target: board.key,
    role: at.role,
    letter: at.letter,
    ...(tile === null ? {} : { tile }),
  };
  const { data } = useQuery({
    queryKey: ["difference", set.id, query, version],
    queryFn: () =>
      settled(
        api.GET("/api/sets/{set_id}/channels/difference", {
          params: { path: { set_id: set.id }, query },
        }),
      ),
    staleTime: Infinity,
  });
  if (!data) return <p className="mb-3 text-sm text-ink2">Comparing…</p>;
  if (data.largest === null || data.largest === undefined) return null;
  const steps = data.step ? data.largest / data.step : 0;
  return (
    <figure className="mb-4 grid grid-cols-2 gap-2 text-sm text-ink2">
      <img
        alt="Difference"
        className="aspect-square w-full bg-surround object-contain"
        src={`/api/sets/${set.id}/channels?${addressed({ ...query, show: "difference", version })}`}
      />
      <figcaption className="self-end">
        {data.largest === 0 ? (
          "Identical to its source: the file holds it exactly."
        ) : (
          <>
            Difference from its source: at most {data.largest.toPrecision(2)}, on average{" "}
            {(data.mean ?? 0).toPrecision(2)}.<br />
            That is {steps.toFixed(2)} of one step of the file; half a step shows as mid gray.
          </>
        )}
      </figcaption>
    </figure>
  );
}

/** What one file is called for every other set; asked for when it is opened. */
function OtherNames({
  project,
  sets,
  target,
  role,
  title,
}: {
  project: string;
  sets: TextureSet[];
  target: Target;
  role: string;
  title: string;
}) {
  const [isOpen, setOpen] = useState(false);
  const plans = usePlans(project, `${sets.map((s) => s.head).join()} ${target.version}`, {
    sets: isOpen ? sets.map((s) => s.id) : [],
    targets: [target.key],
    into: "new",
  });
  if (!sets.length) return null;
  return (
    <details className="mt-2" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer font-semibold">
        {title} for the other {sets.length} sets
      </summary>
      <Problem error={plans.error} />
      {isOpen && plans.isPending && <p className="text-sm text-ink2">Naming…</p>}
      {plans.data?.map((p) => {
        const named = p.files.find((f) => f.role === role);
        return (
          <p key={p.set} className="file-name break-words py-0.5">
            {named && !named.left_out ? named.name : `${p.set}: ${named?.why ?? "not written"}`}
          </p>
        );
      })}
    </details>
  );
}

/** What a table says for a way of filling a channel. */
const fillOf = (way: (typeof FILLS)[number][0]) => {
  if (way === "absent") return null;
  return way === "number" ? 0 : way;
};

const FILLS = [
  ["absent", "its usual value"],
  ["leave-out", "leave the file out"],
  ["stop", "stop the delivery"],
  ["number", "a number"],
] as const;

/**
 * What feeds a channel, and how: a quantity's part, turned over or within a range, or one number.
 */
function ChannelEdit({
  channel,
  letter,
  onChange,
}: {
  channel: Channel;
  letter: string;
  onChange: (channel: Channel) => void;
}) {
  const quantities = useQuantities();
  const quantity = quantities.find((q) => q.key === channel.quantity);
  const isOwn = channel.quantity?.startsWith("own_");
  const fill = typeof channel.fill === "number" ? "number" : (channel.fill ?? "absent");
  const [low, high] = channel.range ?? [0, 1];
  const handleSource = (key: string) => {
    const chosen = quantities.find((q) => q.key === key);
    onChange(chosen ? feeding(chosen, letter) : BLACK);
  };
  return (
    <div className="mb-3 flex flex-col gap-2">
      <Line label="Fed from">
        <Choice
          label="Fed from"
          className="min-w-0 grow"
          value={channel.quantity ?? "constant"}
          onChange={handleSource}
          options={[
            ["constant", "One number"],
            ...(isOwn
              ? [
                  [
                    sure(channel.quantity, "the quantity"),
                    sure(channel.quantity, "the quantity").slice(4),
                  ] as const,
                ]
              : []),
            ...quantities.map((q) => [q.key, q.title] as const),
          ]}
        />
        {quantity && quantity.channels > 1 && (
          <Choice
            label="Part"
            className="w-24"
            value={channel.component ?? "v"}
            onChange={(component) => onChange({ ...channel, component })}
            options={componentsOf(quantity).map((part) => [part, part] as const)}
          />
        )}
      </Line>
      {channel.quantity ? (
        <>
          <label className="flex items-center gap-2 pl-[76px]">
            <input
              type="checkbox"
              aria-label="Inverted"
              checked={channel.invert ?? false}
              onChange={(e) => onChange({ ...channel, invert: e.target.checked })}
            />
            inverted
          </label>
          <Line label="Stored from">
            <Share
              label="Stored from"
              value={low}
              onDone={(value) => onChange({ ...channel, range: [value, high] })}
            />{" "}
            to{" "}
            <Share
              label="Stored to"
              value={high}
              onDone={(value) => onChange({ ...channel, range: [low, value] })}
            />
          </Line>
          <Line label="Without it" says={meaning("fill")}>
            <Choice
              label="When the set has none"
              className="min-w-0 grow"
              options={FILLS}
              value={fill}
              onChange={(way) => onChange({ ...channel, fill: fillOf(way) })}
            />
            {typeof channel.fill === "number" && (
              <Share
                label="Fill"
                value={channel.fill}
                onDone={(value) => onChange({ ...channel, fill: value })}
              />
            )}
          </Line>
        </>
      ) : (
        <Line label="Always">
          <Share
            label="Constant"
            value={channel.constant ?? 0}
            onDone={(constant) => onChange({ ...BLACK, constant })}
          />
        </Line>
      )}
    </div>
  );
}

/** A number from 0 to 1 to type. */
function Share({
  label,
  value,
  onDone,
}: {
  label: string;
  value: number;
  onDone: (value: number) => void;
}) {
  return (
    <NumberField
      label={label}
      low={0}
      high={1}
      className="w-14 text-right"
      value={String(value)}
      onDone={(typed) => typed !== null && typed !== value && onDone(typed)}
    />
  );
}
