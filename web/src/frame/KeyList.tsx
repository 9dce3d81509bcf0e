import { Dialog } from "radix-ui";
import { KEYS } from "./keys";

export function KeyList({ isOpen, onOpen }: { isOpen: boolean; onOpen: (open: boolean) => void }) {
  return (
    <Dialog.Root open={isOpen} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-tag/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 w-[680px] -translate-1/2 border border-hair bg-sheet p-6"
        >
          <Dialog.Title className="mb-3">Keys</Dialog.Title>
          <div className="columns-2 gap-8">
            {KEYS.map(([where, rows]) => (
              <section key={where} className="mb-4 break-inside-avoid">
                <h2 className="mb-1">{where}</h2>
                {rows.map(([keys, does]) => (
                  <p
                    key={keys}
                    className="flex items-baseline justify-between gap-3 border-t border-hair py-1"
                  >
                    <span>{does}</span>
                    <kbd className="whitespace-nowrap">{keys}</kbd>
                  </p>
                ))}
              </section>
            ))}
          </div>
          <Dialog.Close className="button">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
