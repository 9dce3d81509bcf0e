import { savedSetsAddress } from "../api/savedSets";
import { Hint } from "../parts/Hint";

const WHAT_IT_IS = [
  "One zip with the files of the sets as they came and all that is done to them.",
  "Drop it here again, or on another computer, and they are as they are now; earlier steps stay behind.",
].join(" ");

/** Sets as one file, to keep or to hand on. */
export function SaveSets({ project, ids, text }: { project: string; ids: string[]; text: string }) {
  return (
    <Hint says={WHAT_IT_IS}>
      <a className="button" href={savedSetsAddress(project, ids)} download>
        {text}
      </a>
    </Hint>
  );
}
