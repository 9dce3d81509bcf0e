import { Hint } from "../../parts/Hint";
import { type Edit, withParam } from "./edit";
import { type Pick, spotsIn, withoutLast } from "./picks";
import { useView } from "./view";

/**
 * What a spot can be said to be, by the master that is picked for. High and low leave room for what
 * is higher and lower still.
 */
const WORDS: Record<string, readonly (readonly [title: string, value: number])[]> = {
  height: [
    ["High", 0.9],
    ["Low", 0.1],
  ],
  roughness: [
    ["Dull", 0.9],
    ["Shiny", 0.1],
  ],
  metallic: [
    ["Metal", 1],
    ["Not metal", 0],
  ],
  opacity: [
    ["Solid", 1],
    ["Hole", 0],
  ],
  emissive: [
    ["Glows", 1],
    ["Does not", 0],
  ],
  mask: [
    ["Here", 1],
    ["Not here", 0],
  ],
};

/** Quantities whose words are said of a spot: "a low spot". */
const SAID_OF_SPOTS = ["height", "roughness"];

type PicksControlProps = { label: string; about: string; node: string; picks: Pick[]; edit: Edit };

/** Choose what to say, then click on the picture; the answer follows at once. */
export function PicksControl({ label, about, node, picks, edit }: PicksControlProps) {
  const picking = useView((view) => view.picking);
  const pick = useView((view) => view.pick);
  const hasDoubt = useView((view) => view.hasDoubt);
  const set = useView((view) => view.set);
  const words = WORDS[about] ?? WORDS.height;
  const unsaid = words.filter(([, value]) => !picks.some((p) => p.value > 0.5 === value > 0.5));
  const isOneWord = SAID_OF_SPOTS.includes(about) && unsaid.length === 1;
  const keep = (next: Pick[]) => edit.keep(withParam(edit.recipe, node, "picks", next));
  const handleWord = (value: number) => {
    const isOn = picking?.node === node && picking.value === value;
    pick(isOn ? null : { node, value });
  };
  return (
    <div className="flex flex-col gap-1.5">
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="w-[84px] shrink-0">{label}</span>
        {words.map(([title, value]) => (
          <button
            type="button"
            key={title}
            aria-pressed={picking?.node === node && picking.value === value}
            className="button aria-pressed:border-copper aria-pressed:bg-wash"
            onClick={() => handleWord(value)}
          >
            <i
              className={`inline-block size-2.5 rounded-full border-2 border-copper
                ${value > 0.5 ? "bg-copper" : ""}`}
            />
            {title}
            <span className="text-sm text-ink2">
              {spotsIn(picks.filter((p) => p.value > 0.5 === value > 0.5))}
            </span>
          </button>
        ))}
        <span className="flex basis-full gap-1.5 pl-[90px]">
          <button
            type="button"
            className="button"
            disabled={!picks.length}
            onClick={() => keep(withoutLast(picks))}
          >
            Remove last
          </button>
          <button
            type="button"
            className="button"
            disabled={!picks.length}
            onClick={() => keep([])}
          >
            All off
          </button>
        </span>
      </div>
      {isOneWord && (
        <p className="pl-[90px] text-sm text-ink2">
          Show a {unsaid[0][0].toLowerCase()} spot too: one word alone tells little.
        </p>
      )}
      {picks.length > 0 && about !== "mask" && (
        <Hint says="Hatched over the map: the more, the less any pick is like it. The next pick tells most there.">
          <label className="flex items-center gap-1.5 pl-[90px]">
            <input
              type="checkbox"
              checked={hasDoubt}
              onChange={(e) => set({ hasDoubt: e.target.checked })}
            />
            Where it is unsure
          </label>
        </Hint>
      )}
      {picking?.node === node && (
        <p className="text-sm text-ink2">
          Click on the picture where it is{" "}
          {words.find(([, value]) => value === picking.value)?.[0].toLowerCase()}, or brush along it
          (Shift and drag moves the picture). Press the button again when done.
        </p>
      )}
    </div>
  );
}
