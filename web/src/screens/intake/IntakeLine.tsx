import { TargetChips } from "../../line/TargetChips";
import type { Taking } from "./useTakingIn";

type IntakeLineProps = {
  meshes: number;
  sets: number;
  files: number;
  stays: number;
  size: string;
  usual: string[];
  isReady: boolean;
  taking: Taking | null;
  onStop: () => void;
  onUsual: (usual: string[]) => void;
  onTakeIn: () => void;
  onDeliver: () => void;
};

/** What comes next: how much goes on, to which targets, how large, and the two ways to go. */
export function IntakeLine(props: IntakeLineProps) {
  const { meshes, sets, files, stays, size, usual, isReady, taking } = props;
  return (
    <section
      aria-label="What comes next"
      className="flex items-center gap-5 border-t-2 border-copper bg-sheet px-[18px] py-2.5"
    >
      <p className="shrink-0">
        <b className="font-semibold">
          {[count(sets, "set"), files > 0 && count(files, "file"), meshes > 0 && meshesOf(meshes)]
            .filter(Boolean)
            .join(", ")}
        </b>
        <br />
        <span className="text-sm text-ink2">
          {stays > 0 ? `${count(stays, "file")} stay${stays === 1 ? "s" : ""} in this table` : size}
        </span>
      </p>
      <div className="min-w-0 grow">
        <p className="mb-1 text-sm text-ink2">To the usual targets of this project</p>
        <TargetChips usual={usual} onChange={props.onUsual} />
      </div>
      {taking && taking.of > 1 && (
        <p role="status" className="flex shrink-0 items-center gap-3">
          Taking in {Math.min(taking.done + 1, taking.of)} of {taking.of}
          <button type="button" className="button" onClick={props.onStop}>
            Stop
          </button>
        </p>
      )}
      <button
        type="button"
        className="button shrink-0"
        disabled={!isReady}
        onClick={props.onTakeIn}
      >
        Take in {count(sets, "set")}
      </button>
      <button
        type="button"
        className="button-main shrink-0"
        disabled={!isReady || !usual.length}
        onClick={props.onDeliver}
      >
        Take in and deliver <kbd className="border-on-copper/60 text-on-copper">Ctrl ↵</kbd>
      </button>
    </section>
  );
}

const meshesOf = (n: number) => (n === 1 ? "1 mesh" : `${n} meshes`);
const count = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;
