import type { MeshLook } from "../../../api/meshes";
import { Hint } from "../../../parts/Hint";
import { Line } from "../../../parts/Line";
import { meaning } from "../../../parts/words";
import { useView } from "../view";
import { hasMissed, MARKS } from "./marks";

/** What is drawn over the flat picture, and where that is wanted on the mesh too. */
export function MeshMarks({ look }: { look: MeshLook | null }) {
  const { meshMarks, isOnMesh, missed, set: change } = useView();
  if (!look?.has_uv) return null;
  return (
    <Line label="Drawn" says={meaning("drawn over the picture")} isHigh>
      <span className="grid grow grid-cols-2 gap-x-2 gap-y-0.5">
        {MARKS.map(([mark, title, says]) => {
          const isNone = mark === "missed" && !hasMissed(missed);
          return (
            <Hint key={mark} says={isNone ? "No ray has missed, or nothing was baked yet." : says}>
              <label className={`flex items-center gap-1.5 ${isNone ? "text-ink2" : ""}`}>
                <input
                  type="checkbox"
                  disabled={isNone}
                  checked={meshMarks.includes(mark)}
                  onChange={() =>
                    change({
                      meshMarks: meshMarks.includes(mark)
                        ? meshMarks.filter((one) => one !== mark)
                        : [...meshMarks, mark],
                    })
                  }
                />
                {title}
              </label>
            </Hint>
          );
        })}
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={isOnMesh}
            onChange={(e) => change({ isOnMesh: e.target.checked })}
          />
          On the mesh too
        </label>
      </span>
    </Line>
  );
}
