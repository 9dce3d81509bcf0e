import type { Target } from "../api/client";

type Channel = Target["files"][number]["channels"][string];
type Hole = { kind: keyof typeof FILL; quantity: string | null; letters: string };

const FILL = {
  straight: "bg-copper",
  inverted: "border border-copper",
  constant: "border border-ink2/50",
};
// of as many channels, with the gaps between them
const WIDTHS = ["", "w-[6px]", "w-[14px]", "w-[22px]", "w-[30px]"];

/**
 * A target's packing drawn small: a row of holes a file, filled where a map goes in as it is, a
 * ring where it is inverted, pale where the channel always holds one value. Channels of one map are
 * one long hole.
 */
export function Holes({ target }: { target: Target }) {
  return (
    <span aria-hidden className="flex shrink-0 flex-wrap items-center gap-1.5">
      {usual(target).map((file) => (
        <span
          key={file.role}
          className="flex gap-[2px] border-l border-hair pl-1.5 first:border-0 first:pl-0"
        >
          {holesOf(Object.entries(file.channels)).map(({ kind, letters }) => (
            <i
              key={letters}
              className={`h-[6px] rounded-full ${WIDTHS[letters.length]} ${FILL[kind]}`}
            />
          ))}
        </span>
      ))}
    </span>
  );
}

/** Files that any set may have: what sets seldom have would only make it long. */
const usual = ({ files }: Target) => files.filter(({ seldom }) => !seldom);

/** Neighbors that hold the same map in the same way, as one. */
function holesOf(channels: [string, Channel][]): Hole[] {
  const holes: Hole[] = [];
  for (const [letter, channel] of channels) {
    const { quantity } = channel;
    const kind = kindOf(channel);
    const last = holes.at(-1);
    if (last && quantity && last.quantity === quantity && last.kind === kind)
      last.letters += letter;
    else holes.push({ kind, quantity, letters: letter });
  }
  return holes;
}

const kindOf = (channel: Channel): Hole["kind"] => {
  if (!channel.quantity) return "constant";
  return channel.invert ? "inverted" : "straight";
};
