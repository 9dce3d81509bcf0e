import { Tooltip } from "radix-ui";
import { createContext, use } from "react";

type HintProps = { says: string | undefined; children: React.ReactElement };

/**
 * Help on the one element inside: it shows under the pointer, and when the keyboard comes to it or
 * to what it holds.
 */
export function Hint({ says, children }: HintProps) {
  const isNear = use(Near);
  if (!says || !isNear) return children;
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

/**
 * Around one of hundreds that have hints: whether pointer or keyboard is there. Before, none can be
 * asked for, and each would cost as much as all else of what it is on. What has a hint is made anew
 * when they come: nothing that is pressed itself, as a press on it would be lost.
 */
export const Near = createContext(true);

/** Around everything that has hints: the second one shows at once. */
export function Hints({ children }: { children: React.ReactNode }) {
  return (
    <Tooltip.Provider delayDuration={450} skipDelayDuration={200} disableHoverableContent>
      {children}
    </Tooltip.Provider>
  );
}
