import { useTargets } from "../api/queries";
import { Holes } from "./Holes";
import { TargetPicker } from "./TargetPicker";

type TargetChipsProps = { usual: string[]; onChange: (usual: string[]) => void };

/** The project's usual targets, each with its packing drawn; pressed away or added in place. */
export function TargetChips({ usual, onChange }: TargetChipsProps) {
  const { data: targets = [] } = useTargets();
  return (
    <div
      className="flex min-w-0 flex-wrap items-center gap-2"
      aria-label="Usual targets"
      role="group"
    >
      {usual.map((key) => {
        const target = targets.find((row) => row.target.key === key)?.target;
        return (
          <span
            key={key}
            className="flex items-center gap-2 rounded-[3px] border border-copper bg-wash py-1 pl-2"
          >
            {target?.title ?? key}
            {target && <Holes target={target} />}
            <button
              type="button"
              className="cursor-pointer px-2 text-ink2"
              aria-label={`Do not deliver to ${target?.title ?? key}`}
              onClick={() => onChange(usual.filter((one) => one !== key))}
            >
              ×
            </button>
          </span>
        );
      })}
      <TargetPicker
        label="Usual targets"
        isMany
        chosen={usual}
        first={usual}
        onPick={(key) =>
          onChange(usual.includes(key) ? usual.filter((one) => one !== key) : [...usual, key])
        }
      >
        {usual.length ? "Other targets" : "Choose targets"}
      </TargetPicker>
    </div>
  );
}
