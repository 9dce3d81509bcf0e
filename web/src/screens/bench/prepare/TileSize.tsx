import type { TextureSet } from "../../../api/client";
import { useResize } from "../../../api/queries";
import { Problem } from "../../../parts/grades";
import { Hint } from "../../../parts/Hint";
import { resizedSaid, squareSizes } from "./steps";

/** How large the tile is; of a square one the powers of two beside it, with what each costs. */
export function TileSize({ set, project }: { set: TextureSet; project: string }) {
  const resize = useResize(project, set.id);
  const { width, height, sampling, keep_shine } = set.recipe.facts;
  const sizes = squareSizes(width, height);
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <span className="w-[84px] shrink-0">Size</span>
      <span>
        {width} × {height} px{sizes.length > 0 && ", make it"}
      </span>
      {sizes.map((px) => (
        <Hint key={px} says={`${px} × ${px} px, ${resizedSaid(width, px)}`}>
          <button
            type="button"
            className="button"
            aria-label={`Make it ${px} px`}
            disabled={resize.isPending}
            onClick={() => resize.mutate({ longer: px, sampling, keep_shine })}
          >
            {px}
          </button>
        </Hint>
      ))}
      <Problem error={resize.error} />
    </div>
  );
}
