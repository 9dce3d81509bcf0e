import { Problem } from "../parts/grades";
import { Hint } from "../parts/Hint";
import { useKeepsUp } from "./keepsUp";

const WHAT_IT_DOES = [
  "Two seconds after a change of a set or of a target, what was delivered of it is delivered again, into its folder.",
  "Only files that changed are written, and what somebody else changed there is left.",
  "It holds for the whole project, also while no window is open.",
].join(" ");

/** Whether what was delivered follows its sets. */
export function AfterChanges({ project, text }: { project: string; text: string }) {
  const { deliversChanges, change, error } = useKeepsUp(project);
  return (
    <>
      <Hint says={WHAT_IT_DOES}>
        <label className="flex cursor-pointer items-center gap-1.5 text-sm">
          <input
            type="checkbox"
            checked={deliversChanges}
            onChange={(event) => change({ delivers_changes: event.target.checked })}
          />
          {text}
        </label>
      </Hint>
      <Problem error={error} />
    </>
  );
}
