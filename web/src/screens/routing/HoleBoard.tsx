import type { KeyboardEvent } from "react";
import type { Board, Plan, TextureSet } from "../../api/client";
import { Hint } from "../../parts/Hint";
import { meaningOf } from "../../parts/keys";
import { under } from "../../parts/under";

export type HoleAt = { role: string; letter: string };
type Hole = Board["files"][number]["holes"][number];
type HoleBoardProps = {
  board: Board;
  set: TextureSet | undefined;
  plan: Plan | undefined;
  pictureOf: ((master: string) => { src: string; from: string } | null) | null;
  at: HoleAt;
  onGo: (at: HoleAt) => void;
  onRoute: (at: HoleAt, master: string) => void;
  onTurn: (at: HoleAt) => void;
};

/**
 * `pictureOf` tells what files that come in hold of a master; else the rows show the set's. Rows
 * are masters, columns the channels of the files: filled is straight, a ring inverted, a dot in a
 * ring computed from several, a number constant. Arrows walk over the holes, with Shift from
 * channel to channel; Enter feeds one, I turns it over.
 */
export function HoleBoard({
  board,
  set,
  plan,
  pictureOf,
  at,
  onGo,
  onRoute,
  onTurn,
}: HoleBoardProps) {
  const columns = board.files.flatMap((file) =>
    file.holes.map((hole) => ({ role: file.role, hole })),
  );
  const columnOf = (role: string, hole: Hole) =>
    columns.findIndex((c) => c.role === role && c.hole.letter === hole.letter);
  const hasConstants = columns.some(({ hole }) => hole.feed === "constant");
  const handleKey = (event: KeyboardEvent) => {
    const here = under(event.target)?.closest<HTMLElement>("[data-row]")?.dataset;
    if (!here) return;
    if (meaningOf(event.key) === "i")
      return onTurn({
        role: columns[Number(here.column)].role,
        letter: columns[Number(here.column)].hole.letter,
      });
    const [across, down] = WAYS[event.key] ?? [0, 0];
    if (!across && !down) return;
    event.preventDefault();
    const column = (Number(here.column) + across + columns.length) % columns.length;
    if (event.shiftKey && across)
      return event.currentTarget
        .querySelector<HTMLElement>(`[aria-pressed][data-column="${column}"]`)
        ?.focus();
    const rows = board.rows.length + Number(hasConstants);
    let row = Number(here.row);
    let next: HTMLElement | null = null;
    do {
      // a constant's row has no hole to feed
      row = (row + down + rows) % rows;
      next = event.currentTarget.querySelector<HTMLElement>(
        `[data-row="${row}"][data-column="${column}"]`,
      );
    } while (!next && down && row !== Number(here.row));
    next?.focus();
  };
  return (
    <table className="border-separate border-spacing-0" onKeyDown={handleKey}>
      <thead>
        <tr>
          <td className="border-0" />
          {board.files.map((file) => (
            <th
              key={file.role}
              colSpan={file.holes.length}
              scope="colgroup"
              className="border-0 pb-2 pl-3.5 font-semibold text-ink"
            >
              {file.title}
            </th>
          ))}
        </tr>
        <tr>
          <th />
          {board.files.map((file) =>
            file.holes.map((hole, k) => (
              <th
                key={file.role + hole.letter}
                scope="col"
                className={`pr-0 pb-1 text-center ${k ? "" : "pl-3.5"}`}
              >
                {hole.letter}
              </th>
            )),
          )}
        </tr>
      </thead>
      <tbody>
        {board.rows.map((row, line) => (
          <tr key={row.key}>
            <Hint says={row.plain}>
              <th scope="row" className="min-w-[190px] py-0 text-ink">
                {pictureOf ? (
                  <RowIn row={row} picture={pictureOf(row.key)} />
                ) : (
                  <RowHead row={row} set={set} />
                )}
              </th>
            </Hint>
            {board.files.map((file) =>
              file.holes.map((hole, k) => (
                <td
                  key={file.role + hole.letter}
                  className={`h-9 p-0 text-center ${k ? "min-w-9" : "min-w-12 pl-3.5"}`}
                >
                  <HoleMark
                    line={line}
                    column={columnOf(file.role, hole)}
                    isFed={hole.master === row.key}
                    hole={hole}
                    role={file.role}
                    title={`${file.title}, ${hole.letter}: ${hole.meaning}`}
                    isAt={at.role === file.role && at.letter === hole.letter}
                    onGo={onGo}
                    offer={`Feed ${file.title}, ${hole.letter} from ${row.title}`}
                    plain={row.plain}
                    onRoute={() => onRoute({ role: file.role, letter: hole.letter }, row.key)}
                  />
                </td>
              )),
            )}
          </tr>
        ))}
        {hasConstants && (
          <tr>
            <th scope="row" className="py-0 text-ink">
              Constant
            </th>
            {board.files.map((file) =>
              file.holes.map((hole, k) => (
                <td
                  key={file.role + hole.letter}
                  className={`h-9 p-0 text-center ${k ? "min-w-9" : "min-w-12 pl-3.5"}`}
                >
                  <HoleMark
                    line={board.rows.length}
                    column={columnOf(file.role, hole)}
                    isFed={hole.master === null}
                    hole={hole}
                    role={file.role}
                    title={`${file.title}, ${hole.letter}: ${hole.meaning}`}
                    isAt={at.role === file.role && at.letter === hole.letter}
                    onGo={onGo}
                  />
                </td>
              )),
            )}
          </tr>
        )}
        <tr>
          <td className="border-0" />
          {board.files.map((file) => (
            <td
              key={file.role}
              colSpan={file.holes.length}
              className="border-0 pt-2.5 pl-3.5 align-top text-sm"
            >
              <Chips name={file.name} />
              <Stored
                file={file}
                plan={plan}
                green={file.holes.some((h) => h.master === "normal") ? board.green : null}
              />
            </td>
          ))}
        </tr>
      </tbody>
    </table>
  );
}

const WAYS: Record<string, [across: number, down: number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

function RowHead({ row, set }: { row: Board["rows"][number]; set: TextureSet | undefined }) {
  const master = set?.masters.find((m) => m.key === row.key);
  return (
    <span className="flex items-center gap-2.5">
      {set && master && master.origin !== "absent" ? (
        <img
          alt=""
          src={`/api/sets/${set.id}/swatch?head=${set.head}&show=${row.key}&px=68`}
          className="size-7 bg-surround object-cover"
        />
      ) : (
        <i className="size-7 border border-dashed border-ink2" />
      )}
      <span className={row.carried ? "" : "text-ink2"}>
        {row.title}
        <br />
        <span className="text-sm text-ink2">{master?.origin ?? ""}</span>
      </span>
    </span>
  );
}

function RowIn({
  row,
  picture,
}: {
  row: Board["rows"][number];
  picture: { src: string; from: string } | null;
}) {
  return (
    <span className="flex items-center gap-2.5">
      {picture ? (
        <img
          alt={`${row.title} from ${picture.from}`}
          src={picture.src}
          className="size-7 bg-surround object-cover"
        />
      ) : (
        <i className="size-7 border border-dashed border-ink2" />
      )}
      <span className={row.carried ? "" : "text-ink2"}>
        {row.title}
        <br />
        <span className="text-sm text-ink2">{picture?.from ?? ""}</span>
      </span>
    </span>
  );
}

type HoleMarkProps = {
  line: number;
  column: number;
  isFed: boolean;
  hole: Hole;
  role: string;
  title: string;
  isAt: boolean;
  onGo: (at: HoleAt) => void;
  offer?: string;
  plain?: string;
  onRoute?: () => void;
};

function HoleMark({
  line,
  column,
  isFed,
  hole,
  role,
  title,
  isAt,
  onGo,
  offer,
  plain = "",
  onRoute,
}: HoleMarkProps) {
  const empty = <i className="size-[18px] rounded-full bg-hair/60" />;
  if (!isFed && !onRoute)
    return <span className="inline-grid size-7 place-items-center align-middle">{empty}</span>;
  if (!isFed)
    return (
      <Hint says={`${offer}\n${plain}`}>
        <button
          type="button"
          data-row={line}
          data-column={column}
          aria-label={offer}
          tabIndex={-1}
          onClick={onRoute}
          className="inline-grid size-7 cursor-pointer place-items-center rounded-full border-2
            border-transparent align-middle hover:border-copper"
        >
          {empty}
        </button>
      </Hint>
    );
  const mark = {
    straight: <i className="block size-[18px] rounded-full bg-copper" />,
    inverted: <i className="block size-[18px] rounded-full border-[5px] border-copper" />,
    computed: (
      <i className="grid size-[18px] place-items-center rounded-full border-2 border-copper">
        <i className="size-1.5 rounded-full bg-copper" />
      </i>
    ),
    constant: <span className="text-sm font-semibold text-copper">{hole.absent?.toFixed(2)}</span>,
  }[hole.feed];
  return (
    <Hint says={title}>
      <button
        type="button"
        data-row={line}
        data-column={column}
        aria-label={title}
        aria-pressed={isAt}
        tabIndex={isAt ? 0 : -1}
        onClick={() => onGo({ role, letter: hole.letter })}
        onFocus={() => onGo({ role, letter: hole.letter })}
        className="inline-grid size-7 cursor-pointer align-middle place-items-center rounded-full
          border-2 border-transparent aria-pressed:border-verdigris"
      >
        {mark}
      </button>
    </Hint>
  );
}

/** A name as its parts, in order: what is filled in stands in copper. */
function Chips({ name }: { name: Board["files"][number]["name"] }) {
  return (
    <span className="flex flex-wrap gap-1">
      {name.map((part, k) => {
        const isText = typeof part === "string";
        return (
          <span
            key={k}
            className={`rounded-full border px-1.5
              ${isText ? "file-name border-hair" : "border-copper text-copper"}`}
          >
            {isText ? part : part.part}
          </span>
        );
      })}
    </span>
  );
}

type StoredProps = {
  file: Board["files"][number];
  plan: Plan | undefined;
  green: "up" | "down" | null;
};

function Stored({ file, plan, green }: StoredProps) {
  const planned = plan?.files.find((f) => f.role === file.role);
  const stored = [
    file.format.toUpperCase(),
    `${file.depth} bit`,
    file.color === "data" ? "data" : "color",
    ...(green ? [green === "down" ? "Y−" : "Y+"] : []),
  ];
  const lines = [
    stored.join(" · "),
    planned && `${planned.width} × ${planned.height}`,
    planned && `${inMb(planned.memory_plain)} plain`,
    planned && `${inMb(planned.memory_block)} compressed`,
    planned?.left_out && `left out: ${planned.why}`,
    !planned?.left_out && file.required && `written even flat: ${file.required}`,
  ];
  return (
    <p className="mt-1.5 text-ink2">
      {lines
        .filter((line) => typeof line === "string")
        .map((line) => (
          <span key={line} className="block">
            {line}
          </span>
        ))}
    </p>
  );
}

export const inMb = (bytes: number) => `${(bytes / 1e6).toFixed(1)} MB`;
