import { useQueries, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, type Plan, settled } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { Problem } from "../../parts/grades";
import { sure } from "../../parts/sure";
import { useView } from "../bench/view";
import { BALL_SIDES, type Balls, ballsOf, drawBall } from "./balls";

const GAINS = [1, 2, 4, 8, 16, 32].map((n) => [String(n), `× ${n}`] as const);
const STEPS_OF_255 = 255;

type OfTile = { set: string; target: string; tile?: number };
type ProofProps = { deliveryId: string; plan: Plan; benchAddress: string | null };

/**
 * One set's files for one target, read back from disk by the target's stand-in, beside the masters.
 */
export function Proof({ deliveryId, plan, benchAddress }: ProofProps) {
  const tiles = [...new Set(plan.files.flatMap((f) => f.tile ?? []))];
  const [tile, setTile] = useState(tiles[0] ?? null);
  const images = plan.files.filter(
    (f) => f.kind === "image" && !f.left_out && (f.tile === null || f.tile === tile),
  );
  const query = { set: plan.set, target: plan.target, ...(tile === null ? {} : { tile }) };
  const files = useQueries({
    queries: images.map((f) => ({
      queryKey: ["proof", deliveryId, query, f.role],
      queryFn: () =>
        settled(
          api.GET("/api/deliveries/{delivery_id}/proof/files", {
            params: { path: { delivery_id: deliveryId }, query: { ...query, role: f.role } },
          }),
        ),
      retry: false,
    })),
  });
  const read = files.filter((f) => !f.isPending).length;
  const problem = files.find((f) => f.error)?.error;
  const rows = files.flatMap(({ data }, k) =>
    data ? data.channels.map((channel) => ({ file: images[k], channel })) : [],
  );
  const wrong = rows.filter((row) => !row.channel.is_right).length;
  const faults = files.flatMap(({ data }) => data?.faults ?? []);
  const isAllRight = read === images.length && !problem && !wrong && !faults.length;
  const offColor = wrong || faults.length ? "text-stop" : "text-ink2";
  const verdict = () => {
    if (read < images.length) return `Reading back file ${read + 1} of ${images.length}…`;
    const all = rows.length === 1 ? "The one channel holds" : `All ${rows.length} channels hold`;
    if (isAllRight) return `✓ ${all} what the masters say, as exactly as the files can`;
    return problem ? "" : `■ ${wrong + faults.length} of ${rows.length} channels are off`;
  };
  return (
    <section
      aria-label={`Proof of ${plan.set} for ${plan.target_title}`}
      className="my-2 border border-hair bg-paper p-3"
    >
      {tile !== null && (
        <Choice
          label="Tile that is proved"
          options={tiles.map((number) => [String(number), `Tile ${number}`] as const)}
          value={String(tile)}
          onChange={(key) => setTile(Number(key))}
        />
      )}
      <p role="status" className={`mb-2 ${isAllRight ? "text-verdigris" : offColor}`}>
        {verdict()}
      </p>
      <Problem error={problem} />
      {faults.map((fault) => (
        <p key={fault} className="text-stop">
          ■ {fault}
        </p>
      ))}
      <div className="grid grid-cols-[minmax(0,1fr)_auto] items-start gap-5">
        <table className="w-full border-collapse">
          <thead>
            <tr>
              <th>File</th>
              <th>Channel</th>
              <th>Largest</th>
              <th>Mean</th>
              <th>In steps</th>
            </tr>
          </thead>
          <tbody>
            {rows.map(({ file, channel }) => (
              <tr key={file.role + channel.letter} className={channel.is_right ? "" : "text-stop"}>
                {channel.letter === file.channels[0].letter && (
                  <td rowSpan={file.channels.length} className="align-top">
                    {file.title}
                  </td>
                )}
                <td>
                  {channel.letter}{" "}
                  <span className="text-ink2">{titleOf(file, channel.letter)}</span>
                </td>
                <td className="file-name">{channel.largest.toFixed(5)}</td>
                <td className="file-name">{channel.mean.toFixed(5)}</td>
                <td className="file-name">
                  {channel.is_right ? "" : "■ "}
                  {channel.steps.toFixed(2)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <BallSheet deliveryId={deliveryId} plan={plan} query={query} benchAddress={benchAddress} />
      </div>
    </section>
  );
}

/** The ball under three lamps: the masters', the target's, and what differs. */
function BallSheet({ deliveryId, plan, query, benchAddress }: ProofProps & { query: OfTile }) {
  const [gain, setGain] = useState(8);
  const proof = useQuery({
    queryKey: ["proof", deliveryId, query, "ball"],
    queryFn: () =>
      settled(
        api.GET("/api/deliveries/{delivery_id}/proof/ball", {
          params: { path: { delivery_id: deliveryId }, query },
        }),
      ),
    retry: false,
  });
  const pictures = useQuery({
    queryKey: ["proof", deliveryId, query, "pictures"],
    queryFn: () => ballsOf(deliveryId, query),
    enabled: proof.data !== undefined,
    retry: false,
  });
  if (proof.error || pictures.error) return <Problem error={proof.error ?? pictures.error} />;
  if (!proof.data || !pictures.data) return <p className="text-ink2">Lighting the ball…</p>;
  const { lamps, lost, model, is_independent } = proof.data;
  const worst = Math.max(...lamps.map((lamp) => lamp.whole_mean));
  const lookOnBench = () =>
    useView.setState((now) => ({
      look: "lit",
      pictures: "beside",
      other: { ...now.other, lit: `target:${plan.target}` },
    }));
  return (
    <div className="flex flex-col gap-1.5">
      <table className="border-collapse" aria-label="The ball under three lamps">
        <thead>
          <tr>
            {BALL_SIDES.map((side) => (
              <th key={side}>
                {side}
                {side === "Difference" ? ` × ${gain}` : ""}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lamps.map((lamp, k) => (
            <tr key={lamp.lamp}>
              {BALL_SIDES.map((_, side) => (
                <td key={side} className="border-0 p-0.5">
                  <BallPicture
                    balls={pictures.data}
                    lamp={k}
                    side={side}
                    gain={gain}
                    label={`${BALL_SIDES[side]}, lamp ${lamp.lamp}`}
                  />
                </td>
              ))}
              <td className="border-0 pl-2.5 align-middle text-ink2">
                {lamp.lamp}
                <br />
                <span className="file-name">{lamp.whole_mean.toFixed(2)}</span> / {STEPS_OF_255}
                <br />
                on average
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex items-center gap-2">
        <Choice
          label="Difference times"
          options={GAINS}
          value={String(gain)}
          onChange={(next) => setGain(Number(next))}
        />
        {benchAddress && (
          <Link className="button" to={benchAddress} onClick={lookOnBench}>
            Look at both on the Bench
          </Link>
        )}
      </div>
      <p className="max-w-[420px] text-ink2">
        {lost.length
          ? `The target has no channel for ${lost.map((key) => key.replace("_", " ")).join(", ")}: that costs up to ${worst.toFixed(1)} / ${STEPS_OF_255} on average.`
          : `The target carries everything that shows here.`}
        {model === "classic" && " It shades by a power, so its highlights fall off in another way."}
        {is_independent
          ? ""
          : " It is your own target: the files are read by its own table, as no second one exists."}
      </p>
    </div>
  );
}

type BallPictureProps = { balls: Balls; lamp: number; side: number; gain: number; label: string };

function BallPicture({ balls, lamp, side, gain, label }: BallPictureProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(
    () => drawBall(sure(canvas.current, "the ball's canvas"), balls, lamp, side, gain),
    [balls, lamp, side, gain],
  );
  return <canvas ref={canvas} role="img" aria-label={label} className="size-[112px]" />;
}

function titleOf(file: Plan["files"][number], letter: string): string {
  const channel = file.channels.find((c) => c.letter === letter);
  return channel
    ? [channel.title, channel.component === "v" ? "" : channel.component].join(" ")
    : "";
}
