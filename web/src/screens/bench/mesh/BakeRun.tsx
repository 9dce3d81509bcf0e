import type { TextureSet } from "../../../api/client";
import {
  type Bake,
  isBaking,
  type MapName,
  type MeshLook,
  type useBake,
  useBakeable,
  type Worn,
} from "../../../api/meshes";
import { FindingLine, Problem } from "../../../parts/grades";
import { Hint } from "../../../parts/Hint";
import { bakedTiles } from "./bakedTiles";
import { bakedMaps } from "./lacking";

type BakeRunProps = {
  set: TextureSet;
  worn: Worn;
  look: MeshLook | null;
  run: ReturnType<typeof useBake>;
  isBusy: boolean;
};

/** The maps of the set that were baked from what the mesh is no more. */
const staleMaps = (set: TextureSet): MapName[] =>
  set.masters.flatMap(({ given }) => (given?.baked?.stale.length ? [given.baked.map] : []));

/** Begin a bake or a trial of it, and how far the one under way is. */
export function BakeRun({ set, worn, look, run, isBusy }: BakeRunProps) {
  const { bake, start, stop } = run;
  const maps = bakedMaps(useBakeable(), worn, look);
  const going = bake && isBaking(bake) ? bake : null;
  const px = worn.size ?? Math.max(set.recipe.facts.width, set.recipe.facts.height);
  const stale = staleMaps(set);
  const tiles = bakedTiles(set, worn, look);
  const canGo = !going && !isBusy && !start.isPending && maps.length > 0 && look?.has_uv;
  const count = `${maps.length} ${maps.length === 1 ? "map" : "maps"}`;
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        <Hint
          says={`All of them at ${Math.min(512, px)} px and with few rays, to see where rays miss. It changes nothing.`}
        >
          <button
            type="button"
            className="button"
            disabled={!canGo}
            onClick={() => start.mutate({ is_trial: true })}
          >
            Try it small
          </button>
        </Hint>
        <button
          type="button"
          className="button-main"
          disabled={!canGo}
          onClick={() => start.mutate({})}
        >
          Bake {count}, {px} px{tiles.length > 0 && `, ${tiles.length} tiles`}
        </button>
        {stale.length > 0 && (
          <button
            type="button"
            className="button"
            disabled={!canGo}
            onClick={() => start.mutate({ maps: stale })}
          >
            Bake the {stale.length} out of date
          </button>
        )}
      </div>
      {going && (
        <div className="flex items-center gap-2">
          <progress
            aria-label="Progress of the bake"
            className="h-1.5 min-w-0 grow"
            max={1}
            value={going.share}
          />
          <span role="status" className="text-sm text-ink2">
            {Math.round(100 * going.share)} %
          </span>
          <button type="button" className="button" onClick={() => stop.mutate(going.id)}>
            Stop
          </button>
        </div>
      )}
      {bake && <Outcome bake={bake} />}
      <Problem error={run.error} />
    </>
  );
}

const ENDED: Partial<Record<Bake["state"], string>> = {
  cancelled: "Stopped. The set is as it was.",
  waiting: "Waiting for its turn.",
};

/** What a bake says, with the small pictures of its trial. */
function Outcome({ bake }: { bake: Bake }) {
  const says = isBaking(bake) ? bake.doing || ENDED.waiting : (bake.problem ?? ENDED[bake.state]);
  return (
    <>
      {says && (
        <p role="status" className={`text-sm ${bake.problem ? "text-stop" : "text-ink2"}`}>
          {says}
        </p>
      )}
      {bake.trial.length > 0 && (
        <ul aria-label="The trial's maps" className="flex flex-wrap gap-1.5">
          {bake.trial.map(({ map, title, sha256 }) => (
            <li key={map}>
              <Hint says={`${title}, as the trial has it`}>
                <img
                  alt={`Trial of ${title}`}
                  tabIndex={0}
                  src={`/api/originals/${sha256}/thumbnail`}
                  className="size-12 bg-surround object-contain"
                />
              </Hint>
            </li>
          ))}
        </ul>
      )}
      {bake.findings.map((found) => (
        <FindingLine key={found.text} finding={found} />
      ))}
    </>
  );
}
