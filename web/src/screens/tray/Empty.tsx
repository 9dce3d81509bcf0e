import { Link } from "react-router";
import { useProjects } from "../../api/queries";

const DEMO = "the-salt-heron-wardrobe";

/** A project without sets: the ways to begin. */
export function Empty({ project }: { project: string }) {
  const { data: projects = [] } = useProjects();
  const demo = projects.find(({ name, is_away }) => name === DEMO && name !== project && !is_away);
  return (
    <>
      <h1 className="mb-2">No sets yet</h1>
      <ul className="mb-4 flex flex-col gap-2">
        <li>
          <b className="font-semibold">A photo</b>: drop one anywhere in this window. Its maps are
          derived.
        </li>
        <li>
          <b className="font-semibold">Maps that you have</b>: drop a folder or a zip. You are told
          what each file is, and what is missing is derived.
        </li>
        {demo && (
          <li>
            <b className="font-semibold">A look around</b>:{" "}
            <Link className="underline" to={`/p/${demo.name}/tray`}>
              {demo.title}
            </Link>{" "}
            has seven materials to try everything on.
          </li>
        )}
      </ul>
      <Link className="button-main" to={`/p/${project}/intake`}>
        Choose files in Intake
      </Link>
    </>
  );
}
