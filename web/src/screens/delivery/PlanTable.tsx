import { Fragment, useState } from "react";
import type { Plan, Delivery as Run } from "../../api/client";
import { isGoing } from "../../line/runs";
import { FindingLine } from "../../parts/grades";
import { GREENS } from "../../parts/greens";
import { Hint } from "../../parts/Hint";
import { type Chosen, toggled } from "./choice";
import { Destination } from "./Destination";
import { Proof } from "./Proof";

type PlanTableProps = {
  project: string;
  plan: Plan;
  isFirst: boolean; // of its target
  setId: string;
  run: Run | undefined;
  benchAddress: string | null;
  chosen: Chosen;
  onChange: (next: (now: Chosen) => Chosen) => void;
  onDerive: (channel: Channel) => void;
};

/** One set for one target: its exact files, and how each stands. */
export function PlanTable({
  project,
  plan,
  isFirst,
  setId,
  run,
  benchAddress,
  chosen,
  onChange,
  onDerive,
}: PlanTableProps) {
  const [isProved, setProved] = useState(false);
  const byHand = plan.files.filter(
    (f) => !f.left_out || f.left_out === "unwanted" || f.left_out === "waits",
  );
  const unwanted = chosen.unwanted
    .filter((one) => one.set === setId && one.target === plan.target)
    .map((one) => one.role);
  const isEvery = byHand.every((f) => !unwanted.includes(f.role));
  const onWanted = (roles: string[], isWanted: boolean) =>
    onChange((now) => {
      const others = now.unwanted.filter(
        (one) => one.set !== setId || one.target !== plan.target || !roles.includes(one.role),
      );
      const more = roles.map((role) => ({ set: setId, target: plan.target, role }));
      return { ...now, unwanted: isWanted ? others : [...others, ...more] };
    });
  const onAnswer = (name: string, answer: Answer) =>
    onChange((now) => ({
      ...now,
      answers: [
        ...now.answers.filter(
          (one) => one.name !== name || one.set !== plan.set || one.target !== plan.target,
        ),
        { set: plan.set, target: plan.target, name, answer },
      ],
    }));
  const isDelivered =
    run?.state === "done" && run.sent.some((p) => p.set === plan.set && p.target === plan.target);
  return (
    <section className="mt-4">
      <div className="mb-1 flex items-center gap-3">
        <h2>
          {plan.set} → {plan.target_title}
        </h2>
        {isDelivered && (
          <Hint says="Read the files back as the target would, and hold them against the masters">
            <button
              type="button"
              className="button"
              aria-expanded={isProved}
              onClick={() => setProved(!isProved)}
            >
              Proof
            </button>
          </Hint>
        )}
      </div>
      {isFirst && chosen.into === "own" && (
        <Destination
          project={project}
          target={{ key: plan.target, title: plan.target_title }}
          place={plan.place}
        />
      )}
      {isProved && run && isDelivered && (
        <Proof deliveryId={run.id} plan={plan} benchAddress={benchAddress} />
      )}
      {plan.findings.map((f) => (
        <FindingLine key={f.text} finding={f} />
      ))}
      <table className="w-full table-fixed border-collapse">
        <colgroup>
          <col className="w-[26px]" />
          <col className="w-[22%]" />
          <col />
          <col className="w-[104px]" />
          <col className="w-[92px]" />
          <col className="w-[52px]" />
          <col className="w-[21%]" />
        </colgroup>
        <thead>
          <tr>
            <th>
              <input
                type="checkbox"
                aria-label={`Every file of ${plan.set} for ${plan.target_title}`}
                disabled={isGoing(run)}
                checked={isEvery}
                onChange={() =>
                  onWanted(
                    byHand.map((f) => f.role),
                    !isEvery,
                  )
                }
              />
            </th>
            <th>File</th>
            <th>Channels</th>
            <th>Size</th>
            <th>Stored</th>
            <th>Green</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          {plan.files.map((f, k) => (
            <Fragment key={f.role + f.name}>
              {f.tile !== (plan.files[k - 1]?.tile ?? null) && <TileHead tile={f.tile} />}
              <tr>
                <td>
                  <input
                    type="checkbox"
                    aria-label={
                      f.tile === null ? `Write ${f.name}` : `Write ${f.pattern} of every tile`
                    }
                    disabled={isGoing(run) || !byHand.includes(f)}
                    checked={byHand.includes(f) && !unwanted.includes(f.role)}
                    onChange={() => onWanted([f.role], unwanted.includes(f.role))}
                  />
                </td>
                <td className="file-name break-words">
                  {f.name}
                  {f.layer && <span className="text-ink2"> · {f.layer}</span>}
                </td>
                <td>
                  {f.kind === "document" ? f.title : channelsOf(f)}
                  {!f.left_out &&
                    f.channels
                      .filter((c) => c.content === "fill")
                      .map((c) => <FillLine key={c.letter} channel={c} onDerive={onDerive} />)}
                  {!f.left_out &&
                    f.guesses.map((said) => (
                      <p key={said} className="text-sm text-ink2">
                        {said}
                      </p>
                    ))}
                </td>
                <td>{f.kind === "image" && `${f.width} × ${f.height}`}</td>
                <td>
                  {f.kind === "image"
                    ? `${f.depth} bit ${f.color === "data" ? "data" : "color"}`
                    : "document"}
                </td>
                <td>{f.green ? GREEN[f.green] : "–"}</td>
                <td>
                  <State
                    file={f}
                    plan={plan}
                    run={run}
                    onAnswer={(answer) => onAnswer(f.name, answer)}
                  />
                </td>
              </tr>
            </Fragment>
          ))}
        </tbody>
      </table>
      <Gone plan={plan} chosen={chosen} onChange={onChange} />
    </section>
  );
}

/** Where the files of the next tile begin, or those that are for all. */
function TileHead({ tile }: { tile: number | null }) {
  return (
    <tr>
      <th colSpan={7} scope="rowgroup" className="pt-2 text-left">
        {tile === null ? "For all tiles" : `Tile ${tile}`}
      </th>
    </tr>
  );
}

const GREEN: Record<string, string> = Object.fromEntries(GREENS);

export type Channel = Plan["files"][number]["channels"][number];

/**
 * What a channel holds that the set has nothing for, and the press that derives it where that is
 * possible.
 */
function FillLine({
  channel,
  onDerive,
}: {
  channel: Channel;
  onDerive: (channel: Channel) => void;
}) {
  return (
    <p className="flex flex-wrap items-center gap-2 text-sm text-look">
      {channel.letter}: {channel.value} everywhere, {channel.why}.
      {channel.derive && (
        <button type="button" className="button text-ink" onClick={() => onDerive(channel)}>
          Derive it
        </button>
      )}
    </p>
  );
}

type Answer = Chosen["answers"][number]["answer"];

const ANSWERS: [Answer, string][] = [
  ["keep", "Keep it"],
  ["beside", "Write beside it"],
  ["replace", "Replace, keep a copy"],
];
const STATES = {
  new: { mark: "+", text: "new", color: "text-copper" },
  changed: { mark: "◐", text: "changed", color: "text-copper" },
  same: { mark: "=", text: "same", color: "text-verdigris" },
  "by-hand": { mark: "!", text: "changed by somebody else", color: "text-look" },
  foreign: { mark: "!", text: "not ours", color: "text-look" },
} as const;

type StateProps = {
  file: Plan["files"][number];
  plan: Plan;
  run: Run | undefined;
  onAnswer: (answer: Answer) => void;
};

/** How a file stands: left out or waiting, against the folder it goes to, or what became of it. */
function State({ file, plan, run, onAnswer }: StateProps) {
  if (file.left_out === "waits") return <span className="text-stop">■ {file.why}</span>;
  if (file.left_out)
    return (
      <span className="text-ink2">
        {file.left_out === "unwanted" ? file.why : `left out: ${file.why}`}
      </span>
    );
  const row = run?.rows[`${plan.set}/${plan.target}/${file.name}`];
  if (row) return <span className="text-verdigris">✓ {row}</span>;
  if (isGoing(run)) return "waits";
  if (!file.disk) return "will be written";
  const { mark, text, color } = STATES[file.disk];
  return (
    <span className={color}>
      <span aria-hidden>{mark}</span> {text}
      {(file.disk === "by-hand" || file.disk === "foreign") && (
        <span className="mt-1 flex flex-wrap gap-1">
          {ANSWERS.map(([answer, title]) => (
            <button
              key={answer}
              type="button"
              className="button text-ink aria-pressed:border-copper aria-pressed:bg-wash"
              aria-pressed={file.answer === answer}
              onClick={() => onAnswer(answer)}
            >
              {title}
            </button>
          ))}
        </span>
      )}
    </span>
  );
}

/** Files of an earlier delivery that the set has no more: left lying, removed on a tick. */
function Gone({ plan, chosen, onChange }: Pick<PlanTableProps, "plan" | "chosen" | "onChange">) {
  const names = Object.keys(plan.gone);
  if (!names.length) return null;
  return (
    <div className="mt-1 text-ink2">
      Written before, and no more of this set; left lying unless you tick it:
      {names.map((name) => {
        const place = `${plan.set}/${plan.target}/${name}`;
        return (
          <label key={name} className="flex items-center gap-2">
            <input
              type="checkbox"
              aria-label={`Remove ${name}`}
              checked={chosen.remove.includes(place)}
              onChange={() => onChange((now) => ({ ...now, remove: toggled(now.remove, place) }))}
            />
            Remove <span className="file-name">{name}</span>
          </label>
        );
      })}
    </div>
  );
}

/** Channels in a line, neighbors that carry the same thing together: "R G B Normal". */
function channelsOf(file: Plan["files"][number]): string {
  const groups: { letters: string[]; title: string }[] = [];
  for (const { letter, title } of file.channels) {
    const last = groups.at(-1);
    if (last?.title === title) last.letters.push(letter);
    else groups.push({ letters: [letter], title });
  }
  return groups.map((g) => `${g.letters.join(" ")} ${g.title}`).join(" · ");
}
