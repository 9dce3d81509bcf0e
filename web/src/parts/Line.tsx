import { Hint } from "./Hint";

type LineProps = { label: string; says?: string; isHigh?: boolean; children: React.ReactNode };

/**
 * One thing to set, with its name before it; `says` is help, `isHigh` where it takes several rows.
 */
export function Line({ label, says, isHigh, children }: LineProps) {
  const name = "w-[70px] shrink-0";
  return (
    <div className={`flex gap-1.5 ${isHigh ? "items-start" : "flex-wrap items-center"}`}>
      {says ? (
        <Hint says={says}>
          <span
            tabIndex={0}
            className={`${name} cursor-help underline decoration-ink2 decoration-dotted
              underline-offset-3`}
          >
            {label}
          </span>
        </Hint>
      ) : (
        <span className={`${name} ${isHigh ? "pt-1" : ""}`}>{label}</span>
      )}
      {children}
    </div>
  );
}
