import type { Target } from "../api/client";

const FILL = {
  straight: "bg-copper",
  inverted: "border border-copper",
  constant: "border border-ink2/50",
};

/**
 * A target's packing drawn small: a row of holes a file, filled where a map goes in as it is, a ring
 * where it is inverted, pale where the channel always holds one value.
 */
export function Holes({ target }: { target: Target }) {
  return (
    <span aria-hidden className="flex items-center gap-1.5">
      {target.files.map((file) => (
        <span
          key={file.role}
          className="flex gap-[2px] border-l border-hair pl-1.5 first:border-0 first:pl-0"
        >
          {Object.entries(file.channels).map(([letter, channel]) => (
            <i key={letter} className={`size-[6px] rounded-full ${FILL[kindOf(channel)]}`} />
          ))}
        </span>
      ))}
    </span>
  );
}

type Channel = Target["files"][number]["channels"][string];

const kindOf = (channel: Channel | undefined): keyof typeof FILL => {
  if (!channel?.quantity) return "constant";
  return channel.invert ? "inverted" : "straight";
};
