import type { Finding } from "../api/client";

type Grade = Finding["grade"];

/** Shape and color and word per grade: no state is told by color alone. */
const GRADES: Record<Grade, { one: string; many: string; shape: string; text: string }> = {
  stop: { one: "stop", many: "stops", shape: "size-[9px] bg-stop", text: "text-stop" },
  look: { one: "check", many: "checks", shape: "size-2 rotate-45 bg-look", text: "text-look" },
  note: { one: "note", many: "notes", shape: "size-[7px] rounded-full bg-ink2", text: "text-ink2" },
};
export const GRADE_ORDER: readonly Grade[] = ["stop", "look", "note"];

export function GradeMark({ grade }: { grade: Grade }) {
  return (
    <i
      aria-label={GRADES[grade].one}
      role="img"
      className={`inline-block shrink-0 ${GRADES[grade].shape}`}
    />
  );
}

export function GradeCount({ grade, count }: { grade: Grade; count: number }) {
  return (
    <span className="inline-flex shrink-0 items-center gap-1.5 whitespace-nowrap">
      <GradeMark grade={grade} /> {count} {count === 1 ? GRADES[grade].one : GRADES[grade].many}
    </span>
  );
}

/** One finding as a line: its mark and its sentence. */
export function FindingLine({ finding }: { finding: Finding }) {
  return (
    <p className={`flex items-baseline gap-1.5 ${GRADES[finding.grade].text}`}>
      <GradeMark grade={finding.grade} /> {unparted(finding.text)}
    </p>
  );
}

/** A figure and its unit stay on one line. */
const unparted = (text: string) =>
  text.replace(/(?<=\d) (?=(?:[%×°]|px|[mc]?m|[kM]B|m?s)(?!\p{L}))/gu, "\u00a0");

/** What went wrong with a request, where a screen reader hears it. */
export function Problem({ error }: { error: Error | null | undefined }) {
  return error ? (
    <p role="alert" className="text-stop">
      {error.message}
    </p>
  ) : null;
}

/** What one press does about a finding, where there is such a press. */
export function FixButton({
  title,
  disabled,
  onFix,
}: {
  title: string | null;
  disabled: boolean;
  onFix: () => void;
}) {
  return (
    title && (
      <button type="button" className="button" disabled={disabled} onClick={onFix}>
        {title}
      </button>
    )
  );
}
