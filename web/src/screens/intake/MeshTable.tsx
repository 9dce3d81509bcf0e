import { useQuantities } from "../../api/tables";
import { Choice } from "../../parts/Choice";
import { codeOf } from "../../parts/colors";
import { FindingLine, GRADE_ORDER, GradeCount, Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";
import type { MeshRow, useMeshes, Wearings } from "./useMeshes";

const ROLES = [
  ["low", "Low: wears the maps"],
  ["high", "High: baked from"],
  ["cage", "Cage"],
] as const;
const AS_NAMED = "";
const OUT = "out";

/** Every mesh that was dropped: what it is for, and which set it goes to. */
type MeshTableProps = { meshes: ReturnType<typeof useMeshes>; wearings: Wearings };

export function MeshTable({ meshes, wearings }: MeshTableProps) {
  const { rows, isReading, problems } = meshes;
  if (!rows.length && !isReading && !problems.length) return null;
  return (
    <section aria-label="Meshes" className="mt-4">
      <h2 className="mb-1">{rows.length ? `Meshes, ${rows.length}` : "Meshes"}</h2>
      {isReading && (
        <p role="status" className="text-ink2">
          Reading meshes…
        </p>
      )}
      {problems.map((text) => (
        <p key={text} role="alert" className="text-stop">
          ■ {text}
        </p>
      ))}
      <Problem error={wearings.error} />
      {rows.length > 0 && (
        <table className="w-full">
          <thead>
            <tr>
              <th>File</th>
              <th>It is for</th>
              <th>Triangles</th>
              <th>Materials</th>
              <th>Goes to</th>
              <th>Found</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <OneMesh
                key={row.look.name}
                row={row}
                wearings={wearings}
                onChange={(told) => meshes.change(row, told)}
              />
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

type OneMeshProps = {
  row: MeshRow;
  wearings: Wearings;
  onChange: (told: Partial<MeshRow>) => void;
};

function OneMesh({ row, wearings, onChange }: OneMeshProps) {
  const { look, role, isLeftOut } = row;
  const named = ROLES.find(([key]) => key === look.role)?.[1].split(":")[0];
  return (
    <tr className="border-t border-hair align-baseline">
      <td className="font-mono text-mono">{look.name}</td>
      <td>
        <Choice
          label={`What ${look.name} is for`}
          className="w-56"
          options={[
            [AS_NAMED, named ? `${named}, by its name` : "Its name does not say"] as const,
            ...ROLES,
            [OUT, "Left out"] as const,
          ]}
          value={isLeftOut ? OUT : (role ?? AS_NAMED)}
          onChange={(key) =>
            onChange({
              isLeftOut: key === OUT,
              role: key === OUT || key === AS_NAMED ? null : key,
            })
          }
        />
      </td>
      <td>{look.triangles.toLocaleString("en")}</td>
      <td>
        {look.materials.map(({ name }) => name || "unnamed").join(", ")}
        {look.values.length > 0 && <Values told={look.values} />}
      </td>
      <td>
        <Place row={row} wearings={wearings} />
      </td>
      <td>
        <Hint says={look.findings.map(({ text }) => text).join("\n")}>
          <span tabIndex={0} className="flex flex-wrap gap-2 text-sm">
            {GRADE_ORDER.map((grade) => {
              const count = look.findings.filter((found) => found.grade === grade).length;
              return count > 0 && <GradeCount key={grade} grade={grade} count={count} />;
            })}
          </span>
        </Hint>
        {look.findings
          .filter(({ grade }) => grade === "stop")
          .map((found) => (
            <FindingLine key={found.text} finding={found} />
          ))}
      </td>
    </tr>
  );
}

/** What materials have one value for, which their sets take where no file gives the map. */
function Values({ told }: { told: MeshRow["look"]["values"] }) {
  const titles = new Map(useQuantities().map(({ key, title }) => [key, title]));
  const lines = told.map(({ material, values }) => {
    const each = Object.entries(values).map(
      ([key, value]) => `${(titles.get(key) ?? key).toLowerCase()} ${shown(value)}`,
    );
    return told.length === 1 ? each.join(", ") : `${material || "unnamed"}: ${each.join(", ")}`;
  });
  return (
    <Hint says={[...lines, "A set takes these where no file gives the map."].join("\n")}>
      <span tabIndex={0} className="block text-sm text-ink2">
        {lines.length === 1 ? lines[0] : `values of ${lines.length} materials`}
      </span>
    </Hint>
  );
}

const shown = (value: number[]) =>
  value.length === 3 ? codeOf(value) : value.map((one) => one.toFixed(2)).join(", ");

/** The sets that a mesh goes to, or why it goes to none. */
function Place({ row, wearings }: { row: MeshRow; wearings: Wearings }) {
  if (row.isLeftOut) return <span className="text-ink2">left out</span>;
  const { sha256, name } = row.look;
  const own = wearings.sets.filter(({ worn }) =>
    [worn.low, ...worn.high, worn.cage].some((mesh) => mesh?.sha256 === sha256),
  );
  const alone = wearings.alone.find((one) => one.name === name);
  if (alone) return <span className="text-look">◆ to no set: {alone.why}</span>;
  return (
    <>{own.map(({ set_name, is_new }) => `${set_name}${is_new ? " (new)" : ""}`).join(", ")}</>
  );
}
