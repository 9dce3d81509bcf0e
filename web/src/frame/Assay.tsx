import { Popover } from "radix-ui";
import { Link } from "react-router";
import { useAssay, useFix } from "../api/assays";
import { useSets } from "../api/queries";
import { AlwaysTake } from "../line/AlwaysTake";
import { useFront } from "../line/inFront";
import { useOnTable } from "../line/onTable";
import { FindingLine, FixButton, GRADE_ORDER, GradeCount, Problem } from "../parts/grades";
import { Key } from "../parts/Key";
import { inOrder, nothingFound, ofTable, spokenFirst } from "./found";
import { KeptUp } from "./KeptUp";

type AssayProps = {
  project: string;
  /**
   * The set that the place shows, which the strip speaks of first: null is the first, undefined
   * those that are ticked or selected.
   */
  shown: string | null | undefined;
  isOpen: boolean;
  onOpen: (open: boolean) => void;
  onHelp: () => void;
};

/** The strip that is always there: findings by grade; opened, each with its set. */
export function Assay({ project, shown, isOpen, onOpen, onHelp }: AssayProps) {
  const { data: sets = [] } = useSets(project);
  const { rows, isLooking, unseen, lookAgain } = useAssay(project, sets);
  const fix = useFix(project);
  const ticked = useFront(({ ids }) => ids);
  const inFront =
    shown === undefined
      ? sets.filter(({ id }) => ticked.includes(id))
      : [sets.find(({ id }) => id === shown) ?? sets[0]].filter(Boolean);
  const found = inOrder(rows, inFront);
  const table = ofTable(useOnTable(({ found }) => found));
  const first = table.first ?? spokenFirst(rows, inFront, isLooking, unseen);
  return (
    <footer className="flex items-center gap-4 border-t border-hair px-3.5 text-sm text-ink2">
      <Popover.Root open={isOpen} onOpenChange={onOpen}>
        <Popover.Trigger className="flex min-w-0 cursor-pointer items-center gap-4">
          <span className="sr-only">Assay: </span>
          {GRADE_ORDER.map((grade) => (
            <GradeCount
              key={grade}
              grade={grade}
              count={
                [...table.listed, ...found.map((row) => row.finding)].filter(
                  (one) => one.grade === grade,
                ).length
              }
            />
          ))}
          {isLooking && (
            <span role="status" className="shrink-0">
              looking…
            </span>
          )}
          {first && <span className="min-w-0 truncate">{first}</span>}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            align="start"
            sideOffset={8}
            collisionPadding={8}
            tabIndex={0}
            aria-label="Assay"
            className="max-h-[50vh] w-[640px] overflow-auto border border-hair bg-sheet p-4
              text-base"
          >
            <h2 className="mb-2">Assay</h2>
            <Problem error={fix.error} />
            {unseen.length > 0 && (
              <div className="flex items-center justify-between gap-3 pb-2">
                <p>
                  Could not be looked at, so nothing is known of{" "}
                  {unseen.length === 1 ? "it" : "them"}:{" "}
                  <b className="font-semibold">{unseen.map(({ name }) => name).join(", ")}</b>
                </p>
                <button type="button" className="button shrink-0" onClick={lookAgain}>
                  Look again
                </button>
              </div>
            )}
            {!found.length && !unseen.length && !table.listed.length && (
              <p className="text-ink2">{nothingFound(sets.length, isLooking)}</p>
            )}
            {table.listed.map((finding, place) => (
              <div key={place + finding.text} className="border-t border-hair py-1.5">
                <FindingLine finding={finding} />
              </div>
            ))}
            {found.map((row) => (
              <div
                key={row.set.id + row.finding.id + row.finding.text}
                className="grid grid-cols-[130px_1fr_auto] items-center gap-3 border-t border-hair
                  py-1.5"
              >
                <Link
                  className="underline decoration-hair underline-offset-2"
                  to={`/p/${project}/bench/${row.set.id}`}
                  onClick={() => onOpen(false)}
                >
                  {row.set.name}
                </Link>
                <FindingLine finding={row.finding} />
                {row.leave ? (
                  <Link
                    className="button"
                    to={`/p/${project}/bench/${row.set.id}`}
                    onClick={() => onOpen(false)}
                  >
                    Answer on the bench
                  </Link>
                ) : (
                  <span className="flex flex-col items-stretch gap-1">
                    <FixButton
                      title={row.fix}
                      disabled={fix.isPending}
                      onFix={() => fix.mutate(row)}
                    />
                    <AlwaysTake project={project} finding={row.finding} />
                  </span>
                )}
              </div>
            ))}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <span className="ml-auto flex min-w-0 items-center gap-4">
        <KeptUp project={project} />
        <span className="flex shrink-0 items-center gap-1.5">
          Assay <Key at="everywhere" is="a" />
        </span>
      </span>
      <button
        type="button"
        className="flex shrink-0 cursor-pointer items-center gap-1.5"
        onClick={onHelp}
      >
        Help <Key at="everywhere" is="?" />
      </button>
    </footer>
  );
}
