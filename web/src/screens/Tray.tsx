import { Link } from "react-router";
import { useSets } from "./queries";

/** The project's sets as swatch cards: the material itself, flat and lit, with one corner turned up. */
export function Tray({ project }: { project: string }) {
  const { data: sets, error } = useSets(project);
  if (error) return <main className="stop">The sets could not be read: {error.message}</main>;
  if (!sets) return <main>Laying out the sets…</main>;
  if (!sets.length) return <main><h1>No sets yet</h1><Link to={`/p/${project}/intake`}>Drop a photo or some maps in Intake.</Link></main>;
  return (
    <main>
      <h1>{sets.length} sets</h1>
      <div className="tray">
        {sets.map((set) => (
          <Link key={set.id} className="card" to={`/p/${project}/bench/${set.id}`}>
            <div className="swatch"><img alt={`${set.name}, lit`} src={`/api/sets/${set.id}/swatch?head=${set.head}`} /></div>
            <b>{set.name}</b> {set.findings.map((f) => <span key={f.id} className={f.grade} title={f.text}>■ {f.numbers?.master as string} missing</span>)}
            <div className="marks" aria-label={set.masters.map((m) => `${m.title} ${m.origin}`).join(", ")}>
              {set.masters.map((m) => <i key={m.key} data-origin={m.origin} title={`${m.title}: ${m.origin}`} />)}
            </div>
          </Link>
        ))}
      </div>
    </main>
  );
}
