import "@fontsource-variable/archivo";
import "@fontsource-variable/martian-mono";
import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { StrictMode, useEffect } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, NavLink, Route, Routes, useNavigate, useParams } from "react-router";
import { api, settled } from "./api/client";
import "./look.css";
import { Bench } from "./screens/Bench";
import { Delivery } from "./screens/Delivery";
import { Intake } from "./screens/Intake";
import { Tray } from "./screens/Tray";

const PLACES = [["tray", "Tray"], ["intake", "Intake"], ["bench", "Bench"], ["delivery", "Delivery"]] as const;

function Frame() {
  const { project = "" } = useParams();
  const navigate = useNavigate();
  const projects = useQuery({ queryKey: ["projects"], queryFn: () => settled(api.GET("/api/projects")) });
  useEffect(() => {
    const handleKey = (event: KeyboardEvent) => {
      if ((event.target as HTMLElement).closest("input, select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
      const place = PLACES[Number(event.key) - 1];
      if (place) navigate(`/p/${project}/${place[0]}`);
    };
    window.addEventListener("keydown", handleKey);
    return () => window.removeEventListener("keydown", handleKey);
  }, [navigate, project]);
  return (
    <>
      <header>
        <b>Copper Sieve</b>
        <nav aria-label="Places">
          {PLACES.map(([path, title], k) => (
            <NavLink key={path} to={`/p/${project}/${path}`}>{title} <kbd>{k + 1}</kbd></NavLink>
          ))}
        </nav>
        <span className="where">{projects.data?.find((p) => p.name === project)?.title}</span>
      </header>
      <Routes>
        <Route path="tray" element={<Tray project={project} />} />
        <Route path="intake" element={<Intake project={project} />} />
        <Route path="bench/:setId?" element={<Bench project={project} />} />
        <Route path="delivery" element={<Delivery project={project} />} />
      </Routes>
    </>
  );
}

function First() {
  const projects = useQuery({
    queryKey: ["projects"],
    queryFn: async () => {
      const found = await settled(api.GET("/api/projects"));
      return found.length ? found : [await settled(api.POST("/api/projects", { body: { title: "First project" } }))];
    },
  });
  if (projects.error) return <main className="stop">The server does not answer: {projects.error.message}</main>;
  return projects.data ? <Navigate to={`/p/${projects.data[0].name}/tray`} replace /> : <main>Opening…</main>;
}

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={new QueryClient()}>
      <BrowserRouter>
        <Routes>
          <Route path="/p/:project/*" element={<Frame />} />
          <Route path="*" element={<First />} />
        </Routes>
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
