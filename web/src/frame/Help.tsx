import { Dialog } from "radix-ui";
import { useState } from "react";
import { Segments } from "../parts/Segments";
import { under } from "../parts/under";
import { WORDS } from "../parts/words";
import { KeyList } from "./KeyList";

const PAGES = [
  ["keys", "Keys"],
  ["words", "Words"],
] as const;

const isWaiting = (target: EventTarget | null) => Boolean(under(target)?.closest("[data-waiting]"));

/** Every key, and every word of the trade that the screen uses; letters find a line. */
export function Help({ isOpen, onOpen }: { isOpen: boolean; onOpen: (open: boolean) => void }) {
  const [page, setPage] = useState<"keys" | "words">("keys");
  const [sought, setSought] = useState("");
  const isSought = (...texts: string[]) =>
    texts.some((text) => text.toLowerCase().includes(sought.toLowerCase()));
  return (
    <Dialog.Root open={isOpen} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-tag/40" />
        <Dialog.Content
          aria-describedby={undefined}
          onEscapeKeyDown={(event) => isWaiting(event.target) && event.preventDefault()}
          className="fixed z-40 top-1/2 left-1/2 flex h-[min(620px,90vh)] w-[720px] -translate-1/2
            flex-col border border-hair bg-sheet p-6"
        >
          <div className="mb-3 flex items-center gap-3">
            <Dialog.Title>{page === "keys" ? "Keys" : "Words"}</Dialog.Title>
            <Segments label="Help with" options={PAGES} value={page} onChange={setPage} />
            <input
              aria-label="Find in the list"
              placeholder="Find"
              className="field ml-auto w-44"
              value={sought}
              onChange={(e) => setSought(e.target.value)}
            />
          </div>
          <div tabIndex={0} className="min-h-0 grow overflow-auto">
            {page === "keys" ? <KeyList isSought={isSought} /> : <Words isSought={isSought} />}
          </div>
          <Dialog.Close className="button mt-3 self-start">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

type SoughtProps = { isSought: (...texts: string[]) => boolean };

function Words({ isSought }: SoughtProps) {
  const found = WORDS.filter(([term, means]) => isSought(term, means));
  if (found.length === 0) return <p className="text-ink2">No such word is used here.</p>;
  return (
    <dl className="grid grid-cols-[150px_minmax(0,1fr)]">
      {found.map(([term, means]) => (
        <div key={term} className="col-span-2 grid grid-cols-subgrid border-t border-hair py-1">
          <dt className="font-semibold">{term}</dt>
          <dd className="text-ink2">{means}</dd>
        </div>
      ))}
    </dl>
  );
}
