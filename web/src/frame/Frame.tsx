import { Suspense, useLayoutEffect, useRef, useState } from "react";
import {
  Link,
  NavLink,
  Route,
  Routes,
  useMatch,
  useNavigate,
  useParams,
  useSearchParams,
} from "react-router";
import type { Project } from "../api/client";
import { useProjects } from "../api/queries";
import { useIncoming } from "../line/incoming";
import { RunStrip } from "../line/RunStrip";
import { useDropAnywhere } from "../line/useDropAnywhere";
import { Hint } from "../parts/Hint";
import { useKeyName } from "../parts/Key";
import { useKey } from "../parts/useKey";
import { Bench } from "../screens/bench/Bench";
import { Delivery } from "../screens/delivery/Delivery";
import { Intake } from "../screens/intake/Intake";
import { Routing } from "../screens/routing/Routing";
import { Tray } from "../screens/tray/Tray";
import { Assay } from "./Assay";
import { Boundary } from "./Boundary";
import { Help } from "./Help";
import { useLastProject } from "./lastProject";
import { Projects } from "./Projects";
import { PLACES } from "./places";
import { useTheme } from "./theme";

/** The house around the five places: where you are, what was found, which keys there are. */
export function Frame() {
  const { project = "" } = useParams();
  const setId = useMatch("/p/:project/:place/:setId")?.params.setId;
  const [search] = useSearchParams();
  const place = useMatch("/p/:project/:place/*")?.params.place ?? "";
  const navigate = useNavigate();
  const [theme, turnTheme] = useTheme();
  const keyOfTheme = useKeyName("everywhere", "d");
  const [open, setOpen] = useState<"assay" | "help" | null>(null);
  const handed = setId ?? search.get("set");
  const addressOf = (place: string) => {
    const address = `/p/${project}/${place}`;
    if (!handed) return address;
    if (place === "bench" || place === "routing") return `${address}/${handed}`;
    return place === "delivery" ? `${address}?set=${handed}` : address;
  };
  const isDragged = useDropAnywhere(project);
  const hasFiles = useIncoming(({ incoming }) => incoming.some((one) => one.project === project));
  const [isIntakeOpen, setIntakeOpen] = useState(false);
  if ((place === "intake" || hasFiles) && !isIntakeOpen) setIntakeOpen(true);
  useKey((key) => {
    const place = PLACES[Number(key) - 1];
    if (place) navigate(addressOf(place[0]));
    else if (key === "a") setOpen("assay");
    else if (key === "?") setOpen("help");
    else if (key === "d") turnTheme();
  });
  const { data: projects } = useProjects();
  useLastProject(project);
  const isKnown = projects === undefined || projects.some((one) => one.name === project);
  return (
    <>
      <header className="flex items-center gap-4 border-b border-hair px-3.5">
        <Mark />
        <b className="font-semibold">Copper Sieve</b>
        <nav aria-label="Places" className="flex h-full">
          {PLACES.map(([path, title], k) => (
            <NavLink
              key={path}
              to={addressOf(path)}
              className="-mb-px flex items-center gap-1.5 border-b-2 border-transparent px-3
                text-ink2 focus-visible:-outline-offset-2 aria-[current=page]:border-copper
                aria-[current=page]:font-semibold aria-[current=page]:text-ink"
            >
              {title} <kbd className="font-normal">{k + 1}</kbd>
            </NavLink>
          ))}
        </nav>
        <div className="ml-auto flex items-center gap-2">
          <Projects project={project} />
          <Hint says={`Key ${keyOfTheme}`}>
            <button
              type="button"
              className="button"
              onClick={turnTheme}
              aria-label={theme === "dark" ? "Light panels" : "Dark panels"}
            >
              {theme === "dark" ? "Light" : "Dark"}
            </button>
          </Hint>
        </div>
      </header>
      <PlaceSaid name={placeName(place)} at={`${place}/${setId}`} />
      <Boundary place={placeName(place)}>
        {!isKnown && <NoProject name={project} projects={projects} />}
        {isKnown && (
          <Suspense fallback={<main className="p-4 text-ink2">Opening…</main>}>
            <Routes>
              <Route path="tray" element={<Tray project={project} />} />
              <Route path="intake" element={null} />
              <Route path="bench/:setId?" element={<Bench project={project} />} />
              <Route path="routing/:setId?" element={<Routing project={project} />} />
              <Route path="delivery" element={<Delivery project={project} />} />
              <Route path="*" element={<NoPlace project={project} />} />
            </Routes>
          </Suspense>
        )}
      </Boundary>
      {isKnown && isIntakeOpen && (
        <Boundary place="Intake" key={project}>
          <Suspense
            fallback={place === "intake" && <main className="p-4 text-ink2">Opening…</main>}
          >
            <Intake project={project} isHere={place === "intake"} />
          </Suspense>
        </Boundary>
      )}
      <Assay
        project={project}
        shown={place === "bench" || place === "routing" ? (setId ?? null) : undefined}
        isOpen={open === "assay"}
        onOpen={(isOpen) => setOpen(isOpen ? "assay" : null)}
        onHelp={() => setOpen("help")}
      />
      {place !== "delivery" && <RunStrip project={project} />}
      {isDragged !== null && <DropSaid into={isDragged} />}
      <Help isOpen={open === "help"} onOpen={(isOpen) => setOpen(isOpen ? "help" : null)} />
    </>
  );
}

/** Said on arriving: Tab goes on from here where what had the focus is no longer there. */
function PlaceSaid({ name, at }: { name: string; at: string }) {
  const said = useRef<HTMLSpanElement>(null);
  const before = useRef(at);
  useLayoutEffect(() => {
    const isMoved = before.current !== at;
    before.current = at;
    const focused = document.activeElement;
    const isGone = focused === document.body || focused?.getClientRects().length === 0;
    if (isMoved && isGone) said.current?.focus();
  }, [at]);
  return (
    <span ref={said} tabIndex={-1} className="sr-only">
      {name}
    </span>
  );
}

/** What will happen to the files over the window when they are let go. */
function DropSaid({ into }: { into: string }) {
  return (
    <div className="pointer-events-none fixed inset-2 z-50 grid place-items-end rounded border-2 border-dashed border-copper">
      <p className="m-3 bg-tag px-3 py-1.5 text-on-tag">
        {into ? `Let go: into ${into}` : "Let go: taken to Intake"}
      </p>
    </div>
  );
}

const placeName = (path: string) => PLACES.find(([key]) => key === path)?.[1] ?? "This place";

/** Where an address leads nowhere. */
function NoPlace({ project }: { project: string }) {
  return (
    <main className="p-4">
      <h1>There is no such place</h1>
      <p className="mt-2">
        Go to the <Link to={`/p/${project}/tray`}>tray</Link> of this project.
      </p>
    </main>
  );
}

/** Where a project is gone, or was never there: what there is instead. */
function NoProject({ name, projects }: { name: string; projects: Project[] }) {
  return (
    <main className="p-4">
      <h1>There is no project at “{name}”</h1>
      <p className="mt-2">It may have been called otherwise. These are there:</p>
      <ul className="mt-1 list-disc pl-6">
        {projects.map((one) => (
          <li key={one.name}>
            <Link to={`/p/${one.name}/tray`}>{one.title}</Link>
          </li>
        ))}
      </ul>
    </main>
  );
}

/** Nine holes, some of them filled. */
function Mark() {
  return (
    <svg viewBox="0 0 20 20" className="size-5 text-copper" aria-hidden>
      {Array.from({ length: 9 }, (_, k) => (
        <circle
          key={k}
          cx={3 + 7 * (k % 3)}
          cy={3 + 7 * Math.floor(k / 3)}
          r={2.1}
          fill={[1, 3, 4, 7].includes(k) ? "currentColor" : "none"}
          stroke="currentColor"
          strokeWidth={1.3}
        />
      ))}
    </svg>
  );
}
