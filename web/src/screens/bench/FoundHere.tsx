import { useState } from "react";
import type { TextureSet } from "../../api/client";
import { type Assayed, useAssay, useFix } from "../../api/queries";
import { FindingLine, FixButton, Problem } from "../../parts/grades";
import { sure } from "../../parts/sure";
import { type Place, useView } from "./view";

type FoundHereProps = { project: string; set: TextureSet; onChoose: (key: string) => void };

/** Findings that the eye answers, with what it is called when nothing is done. */
const ASKED: Record<string, string | undefined> = { "light-lines": "They stand up" };

/** What is to be looked at before anything else on this set, with what one press does about it. */
export function FoundHere({ project, set, onChoose }: FoundHereProps) {
  const { rows } = useAssay(project, [set]);
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
  const [putAway, setPutAway] = useState<string[]>([]);
  const asked = rows.filter(({ finding: { id } }) => ASKED[id] && !putAway.includes(id));
  return (
    <>
      <div className="px-4">
        <Problem error={fix.error} />
      </div>
      {asked.map((row) => (
        <Question
          key={row.finding.text}
          set={set}
          row={row}
          isBusy={fix.isPending}
          onYes={() => fix.mutate(row)}
          onNo={() => setPutAway([...putAway, row.finding.id])}
        />
      ))}
      {rows
        .filter((row) => row.finding.grade !== "note" && !ASKED[row.finding.id])
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
            </span>
          </div>
        ))}
    </>
  );
}

type QuestionProps = {
  set: TextureSet;
  row: Assayed;
  isBusy: boolean;
  onYes: () => void;
  onNo: () => void;
};

/** A question that two small lit pictures answer: the set as it is, and as it would be. */
function Question({ set, row, isBusy, onYes, onNo }: QuestionProps) {
  const { id, master } = row.finding;
  const swatch = `/api/sets/${set.id}/swatch?head=${set.head}`;
  const answers = [
    [ASKED[id], swatch, onNo],
    [row.fix, `${swatch}&fix=${id}&of=${master ?? ""}`, onYes],
  ] as const;
  return (
    <div role="group" aria-label="Question" className="px-4 pb-3 text-sm">
      <FindingLine finding={row.finding} />
      <div className="mt-1.5 flex gap-2">
        {answers.map(([title, picture, onAnswer]) => (
          <button
            key={title}
            type="button"
            className="flex cursor-pointer flex-col items-center gap-1 rounded-[3px] border border-hair bg-sheet p-1 hover:border-copper disabled:opacity-50"
            disabled={isBusy}
            onClick={onAnswer}
          >
            <img alt="" src={picture} className="size-[168px] bg-surround object-cover" />
            {title}
          </button>
        ))}
      </div>
    </div>
  );
}
