import { type KeyboardEvent, useState } from "react";
import { Hint } from "../parts/Hint";
import {
  type Chosen,
  isChangeable,
  KEYS,
  keyFor,
  refusal,
  shownKey,
  useKeys,
  type Where,
  withKey,
} from "../parts/keys";

type KeyListProps = { isSought: (...texts: string[]) => boolean };

const isChanged = (chosen: Chosen) =>
  Object.values(chosen).some((keys) => Object.keys(keys).length > 0);

/** Every key by place; those of one letter or sign can be changed by pressing another. */
export function KeyList({ isSought }: KeyListProps) {
  const { chosen, keep } = useKeys();
  const found = KEYS.map(
    ([where, title, rows]) =>
      [
        where,
        title,
        rows.filter(([key, does]) => isSought(shownKey(keyFor(chosen, where, key)), does)),
      ] as const,
  ).filter(([, , rows]) => rows.length > 0);
  return (
    <>
      <p className="mb-3 flex items-center gap-3 text-ink2">
        Click a key to change it, then press the one you want.
        {isChanged(chosen) && (
          <button type="button" className="button" onClick={() => keep({})}>
            Put all keys back
          </button>
        )}
      </p>
      {found.length === 0 && <p className="text-ink2">No key does that.</p>}
      <div className="columns-2 gap-8">
        {found.map(([where, title, rows]) => (
          <section key={where} className="mb-4">
            <h2 className="mb-1 break-after-avoid">{title}</h2>
            {rows.map(([key, does]) => (
              <div
                key={key}
                className="flex break-inside-avoid items-baseline justify-between gap-3 border-t
                  border-hair py-1"
              >
                <span>{does}</span>
                {isChangeable(key) ? (
                  <OwnKey where={where} does={does} own={key} />
                ) : (
                  <kbd className="whitespace-nowrap">{key}</kbd>
                )}
              </div>
            ))}
          </section>
        ))}
      </div>
    </>
  );
}

/** One key: pressed, it waits for another, which it takes or says why not. */
function OwnKey({ where, does, own }: { where: Where; does: string; own: string }) {
  const { chosen, keep } = useKeys();
  const [isWaiting, setWaiting] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const now = keyFor(chosen, where, own);
  const handleKey = (event: KeyboardEvent) => {
    if (!isWaiting || event.key === "Tab" || event.key === "Shift") return;
    event.preventDefault();
    event.stopPropagation();
    setWaiting(false);
    if (event.key === "Escape") return;
    const why = refusal(chosen, where, event.key.toLowerCase());
    setProblem(why);
    if (!why) keep(withKey(chosen, where, own, event.key.toLowerCase()));
  };
  return (
    <span className="flex shrink-0 flex-wrap items-center justify-end gap-1.5">
      {problem && (
        <span role="alert" className="w-40 text-right text-sm text-stop">
          {problem}
        </span>
      )}
      {now !== own && (
        <Hint says={`Back to ${shownKey(own)}`}>
          <button
            type="button"
            className="cursor-pointer px-1 text-ink2"
            aria-label={`Put the key back to ${shownKey(own)}: ${does}`}
            onClick={() => keep(withKey(chosen, where, own, own))}
          >
            ↺
          </button>
        </Hint>
      )}
      <button
        type="button"
        aria-label={`${does}: ${isWaiting ? "press a key" : shownKey(now)}`}
        onClick={() => {
          setProblem(null);
          setWaiting(true);
        }}
        onBlur={() => setWaiting(false)}
        onKeyDownCapture={handleKey}
        data-waiting={isWaiting || undefined} // Escape ends the waiting, not the list
        className="cursor-pointer"
      >
        <kbd className={`whitespace-nowrap ${now === own ? "" : "border-copper"}`}>
          {isWaiting ? "press a key" : shownKey(now)}
        </kbd>
      </button>
    </span>
  );
}
