import { Tooltip } from "radix-ui";

type HintProps = { says: string | undefined; children: React.ReactElement };

/**
 * Help on the one element inside: it shows under the pointer, and when the keyboard comes to it or
 * to what it holds.
 */
export function Hint({ says, children }: HintProps) {
  if (!says) return children;
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild onFocus={openByKeyboardOnly}>
        {children}
      </Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={4}
          collisionPadding={8}
          className="pointer-events-none z-50 max-w-[42ch] rounded border border-hair bg-ink px-2
            py-1 text-sm whitespace-pre-line text-paper shadow-md"
        >
          {says}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

/** A list that closes gives the focus back, and who writes in a field has read on: no questions. */
function openByKeyboardOnly(event: React.FocusEvent) {
  const isWriting = event.target.matches("input:not([type=checkbox]), textarea");
  if (isWriting || !event.target.matches(":focus-visible")) event.preventDefault();
}

/** Around everything that has hints: the second one shows at once. */
export function Hints({ children }: { children: React.ReactNode }) {
  return (
    <Tooltip.Provider delayDuration={450} skipDelayDuration={200} disableHoverableContent>
      {children}
    </Tooltip.Provider>
  );
}
