import { Popover } from "radix-ui";
import { Link } from "react-router";
import { useSets } from "../api/queries";
import { FindingLine, GRADE_ORDER, GradeCount } from "../parts/grades";

type AssayProps = { project: string; isOpen: boolean; onOpen: (open: boolean) => void; onKeys: () => void };

/** The strip that is always there: findings by grade; opened, each with its set. */
export function Assay({ project, isOpen, onOpen, onKeys }: AssayProps) {
  const { data: sets = [] } = useSets(project);
  const found = sets.flatMap((set) => set.findings.map((finding) => ({ set, finding })));
  const first = found[0];
  return (
    <footer className="flex items-center gap-4 border-t border-hair px-3.5 text-sm text-ink2">
      <Popover.Root open={isOpen} onOpenChange={onOpen}>
        <Popover.Trigger aria-label={`Assay: ${found.length} findings`} className="flex cursor-pointer items-center gap-4">
          {GRADE_ORDER.map((grade) => <GradeCount key={grade} grade={grade} count={found.filter((f) => f.finding.grade === grade).length} />)}
          {first && <span className="max-w-[560px] truncate">{first.set.name}: {first.finding.text}</span>}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content align="start" sideOffset={8} collisionPadding={8} className="max-h-[50vh] w-[640px] overflow-auto border border-hair bg-sheet p-4 text-base">
            <h2 className="mb-2">Assay</h2>
            {!found.length && <p className="text-ink2">Nothing to report: every set can go to every target.</p>}
            {found.map(({ set, finding }) => (
              <div key={set.id + finding.id + finding.text} className="grid grid-cols-[150px_1fr] gap-3 border-t border-hair py-1.5">
                <Link className="underline decoration-hair underline-offset-2" to={`/p/${project}/bench/${set.id}`} onClick={() => onOpen(false)}>{set.name}</Link>
                <FindingLine finding={finding} />
              </div>
            ))}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <span className="ml-auto flex items-center gap-1.5">Assay <kbd>A</kbd></span>
      <button className="flex cursor-pointer items-center gap-1.5" onClick={onKeys}>Keys <kbd>?</kbd></button>
    </footer>
  );
}
