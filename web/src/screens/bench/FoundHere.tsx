import { type Assayed, useFix, useFoundHere } from "../../api/assays";
import type { TextureSet } from "../../api/client";
import { AlwaysTake } from "../../line/AlwaysTake";
import { FindingLine, FixButton, Problem } from "../../parts/grades";
import { sure } from "../../parts/sure";
import { type Place, useView } from "./view";

type FoundHereProps = {
  project: string;
  set: TextureSet;
  chosen: string;
  onChoose: (key: string) => void;
};

/** What is to be looked at before anything else on this set, with what one press does about it. */
export function FoundHere({ project, set, chosen, onChoose }: FoundHereProps) {
  const rows = useFoundHere(project, set);
  const marked = useView((view) => view.marked);
  const look = useView((view) => view.set);
  const handleShow = (place: Place) => {
    const isShown = marked?.finding === place.finding && marked.master === place.master;
    look({
      marked: isShown ? null : place,
      ...(useView.getState().look === "lit" ? { look: "pair" } : {}),
      pictures: "one",
      ...(place.tile === null ? {} : { tile: place.tile }),
    });
    if (set.masters.some((m) => m.key === place.master && m.origin !== "absent"))
      onChoose(place.master);
  };
  const fix = useFix(project);
  const isInView = ({ finding }: Assayed) => finding.master === chosen;
  const open = rows.filter((row) => row.leave && (row.finding.grade !== "note" || isInView(row)));
  const asked = [...open.filter(isInView), ...open.filter((row) => !isInView(row))];
  return (
    <>
      <div className="px-4">
        <Problem error={fix.error} />
      </div>
      {asked.slice(0, 1).map((row) => (
        <Question
          key={row.finding.text}
          set={set}
          row={row}
          others={asked.length - 1}
          isBusy={fix.isPending}
          onAnswer={(leave) => fix.mutate({ ...row, leaves: leave })}
        />
      ))}
      {rows
        .filter((row) => row.finding.grade !== "note" && !row.leave)
        .map((row) => (
          <div key={row.finding.text} className="flex items-center gap-2 px-4 pb-2 text-sm">
            <FindingLine finding={row.finding} />
            <span className="ml-auto flex flex-col items-stretch gap-1">
              {row.finding.where && row.finding.master && (
                <button
                  type="button"
                  className="button"
                  aria-pressed={marked?.finding === row.finding.id}
                  onClick={() =>
                    handleShow({
                      set: set.id,
                      finding: row.finding.id,
                      master: sure(row.finding.master, "the map"),
                      tile: row.tile,
                    })
                  }
                >
                  {marked?.finding === row.finding.id ? "Hide where" : "Show where"}
                </button>
              )}
              <FixButton title={row.fix} disabled={fix.isPending} onFix={() => fix.mutate(row)} />
              <AlwaysTake project={project} finding={row.finding} />
            </span>
          </div>
        ))}
    </>
  );
}

type QuestionProps = {
  set: TextureSet;
  row: Assayed;
  others: number;
  isBusy: boolean;
  onAnswer: (leave: boolean) => void;
};

/**
 * Where the pictures of an answer come from: of all as it is, and of what the fix would make of it.
 */
const PICTURES: Record<string, (set: TextureSet, fix: string) => [left: string, fixed: string]> = {
  "light-evened": (set, fix) => {
    const color = `${swatchOf(set)}&show=base_color`;
    return [color, color + fix];
  },
  "roughness-guessed": (set) => {
    const spot = `/api/sets/${set.id}/spots?head=${set.head}`;
    return [`${spot}&which=light`, `${spot}&which=dark`];
  },
};

const swatchOf = (set: TextureSet) => `/api/sets/${set.id}/swatch?head=${set.head}`;
const lit = (set: TextureSet, fix: string): [string, string] => [
  swatchOf(set),
  swatchOf(set) + fix,
];

/** A question that two small pictures answer, with one press. */
function Question({ set, row, others, isBusy, onAnswer }: QuestionProps) {
  const { id, master } = row.finding;
  const [left, fixed] = (PICTURES[id] ?? lit)(set, `&fix=${id}&of=${master ?? ""}`);
  const answers = [
    [row.leave, left, true],
    [row.fix, fixed, false],
  ] as const;
  return (
    <div role="group" aria-label="Question" className="px-4 pb-3 text-sm">
      <FindingLine finding={row.finding} />
      <div className="mt-1.5 flex gap-2">
        {answers.map(([title, picture, leave]) => (
          <button
            key={title}
            type="button"
            className="flex cursor-pointer flex-col items-center gap-1 rounded-[3px] border
              border-hair bg-sheet p-1 hover:border-copper disabled:opacity-50"
            disabled={isBusy}
            onClick={() => onAnswer(leave)}
          >
            <img alt="" src={picture} className="size-[168px] bg-surround object-cover" />
            {title}
          </button>
        ))}
      </div>
      {others > 0 && (
        <p className="mt-1 text-ink2">
          {others === 1 ? "One more question" : `${others} more questions`} after this one.
        </p>
      )}
    </div>
  );
}
