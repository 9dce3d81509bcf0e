import { Problem } from "../../parts/grades";
import type { SavedFile, useSavedSets } from "./useSavedSets";

const MOST_NAMES = 4;

/** Sets that come whole, with all that was done to them: nothing about them is asked. */
export function SavedSets({ saved }: { saved: ReturnType<typeof useSavedSets> }) {
  return (
    <>
      {saved.offered.map((one) => (
        <div
          key={one.file.name + one.file.lastModified}
          role="group"
          aria-label={one.file.name}
          className="mb-2 flex flex-wrap items-center gap-3 border border-hair bg-sheet px-3 py-2"
        >
          <span>
            <span className="file-name">{one.file.name}</span> {holds(one)}
          </span>
          <button
            type="button"
            className="button-main"
            disabled={saved.taken !== null}
            onClick={() => saved.take(one)}
          >
            {one.names.length === 1 ? "Take it in" : "Take them in"}
          </button>
          <button type="button" className="button" onClick={() => saved.putAway(one)}>
            Leave it
          </button>
          {saved.taken === one && <span role="status">Taking in…</span>}
        </div>
      ))}
      <Problem error={saved.error} />
    </>
  );
}

/** "holds 3 saved sets: felt, lace, tweed" */
export function holds({ names }: Pick<SavedFile, "names">): string {
  const more = names.length - MOST_NAMES;
  const said = names.slice(0, MOST_NAMES).join(", ");
  const count = names.length === 1 ? "a saved set" : `${names.length} saved sets`;
  return `holds ${count}: ${more > 0 ? `${said} and ${more} more` : said}`;
}
