import { useQuery } from "@tanstack/react-query";
import { api, settled, type TextureSet } from "../../../api/client";
import { Fields } from "../Controls";
import type { Edit } from "../edit";
import { isInTiles, type Touch, touchOf, withTouch } from "./touch";

type NoiseControlsProps = {
  master: TextureSet["masters"][number];
  edit: Edit;
  noise: NonNullable<Touch["noise"]>;
  onOff: () => void;
};

/** Noise over a map: its kind, how much, how large, and its seed. */
export function NoiseControls({ master, edit, noise, onOff }: NoiseControlsProps) {
  const { data } = useQuery({
    queryKey: ["noise"],
    queryFn: () => settled(api.GET("/api/noise")),
    staleTime: Infinity,
  });
  const kept = {
    params: noise,
    next: (name: string, value: unknown) => {
      const touch = touchOf(edit.recipe, master.key);
      return withTouch(edit.recipe, master.key, { ...touch, noise: { ...noise, [name]: value } });
    },
  };
  const hidden = ["seed"];
  if (master.key === "normal") hidden.push("way"); // slopes are always added
  if (!isInTiles(edit.recipe)) hidden.push("is_over_tiles");
  const fields = (data ?? []).filter(({ name }) => !hidden.includes(name));
  const handleSeed = () => edit.keep(kept.next("seed", 1 + Math.floor(Math.random() * 1e6)));
  return (
    <div className="-mr-4 -ml-8">
      <Fields master={master} edit={edit} fields={fields} kept={kept} />
      <div className="flex items-center gap-1.5 pr-4 pl-8">
        <span className="w-[84px] shrink-0">Seed</span>
        <span className="text-sm text-ink2">{noise.seed}</span>
        <button type="button" className="button ml-auto" onClick={handleSeed}>
          Another one
        </button>
        <button type="button" className="button" onClick={onOff}>
          No noise
        </button>
      </div>
    </div>
  );
}
