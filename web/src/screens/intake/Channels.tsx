import type { FileLook } from "../../api/client";
import { useQuantities } from "../../api/tables";
import { Choice } from "../../parts/Choice";
import { isOwn, ownKey } from "../../parts/ownKeys";
import { OwnName } from "./OwnName";
import { ReadAs } from "./ReadAs";

type ChannelsProps = { look: FileLook; onChange: (look: Partial<FileLook>) => void };

const INVERTED: [number, number] = [1, 0];

/**
 * Every channel of a file with its picture and what it holds; as a target names them, one by one,
 * or saved as grays.
 */
export function Channels({ look, onChange }: ChannelsProps) {
  const quantities = useQuantities();
  const reads = look.reads ?? {},
    spans = look.spans ?? {};
  const letters = [...(look.letters ?? "L")];
  const together = Object.entries(reads).find(([group]) => group.length > 1);
  const title = (key: string) => quantities.find((q) => q.key === key)?.title ?? key;

  const handleChannel = (letter: string, key: string) => {
    const { [letter]: _, ...others } = Object.fromEntries(
      Object.entries(reads).filter(([group]) => group === letter || !group.includes(letter)),
    );
    const { [letter]: __, ...kept } = spans;
    onChange({
      kind: "packed",
      reads: key === "unread" ? others : { ...others, [letter]: key },
      spans: kept,
      green: null,
    });
  };
  const handleInverted = (letter: string, isInverted: boolean) => {
    const { [letter]: _, ...others } = spans;
    onChange({ spans: isInverted ? { ...others, [letter]: INVERTED } : others });
  };
  const words = letters
    .map((letter) => `word=${encodeURIComponent(`${letter}:${reads[letter] ?? letter}`)}`)
    .join("&");
  return (
    <div className="flex items-start gap-4">
      {letters.map((letter) => (
        <figure key={letter} className="w-[160px]">
          <img
            alt={`Channel ${letter}`}
            src={`/api/originals/${look.sha256}/channels/${letter}`}
            className="mb-1 h-[72px] w-full bg-surround object-cover"
          />
          <figcaption className="flex items-center gap-1.5">
            <b className="w-3 font-mono text-mono">{letter}</b>
            {together?.[0].includes(letter) ? (
              <span className="text-ink2">part of {title(together[1]).toLowerCase()}</span>
            ) : (
              <Choice
                label={`What ${letter} holds`}
                className="w-[140px]"
                value={isOwn(reads[letter] ?? "") ? "own" : (reads[letter] ?? "unread")}
                onChange={(key) =>
                  handleChannel(letter, key === "own" ? ownKey(`map ${letter}`) : key)
                }
                options={[
                  ["unread", "Left unread"],
                  ...quantities
                    .filter((q) => q.channels === 1)
                    .map((q) => [q.key, q.title] as const),
                  ["own", "A map of your own"],
                ]}
              />
            )}
          </figcaption>
          {isOwn(reads[letter] ?? "") && (
            <div className="pl-[18px]">
              <OwnName
                label={`What the map in ${letter} is called`}
                value={reads[letter]}
                onDone={(key) => handleChannel(letter, key)}
              />
            </div>
          )}
          {reads[letter] && (
            <label className="mt-1 flex items-center gap-1.5 pl-[18px] text-sm text-ink2">
              <input
                type="checkbox"
                checked={spans[letter] !== undefined}
                onChange={(e) => handleInverted(letter, e.target.checked)}
              />{" "}
              inverted
            </label>
          )}
        </figure>
      ))}
      <div className="grid gap-2 text-sm text-ink2">
        <ReadAs look={look} onChange={onChange} />
        {letters.length > 1 && !together && (
          <span>A channel left unread stays in the original.</span>
        )}
        {letters.length > 1 && (
          <a
            className="button w-fit text-base text-ink"
            href={`/api/originals/${look.sha256}/grays?name=${encodeURIComponent(look.name)}&${words}`}
            download
          >
            Save the channels as grays
          </a>
        )}
      </div>
    </div>
  );
}
