import { isWorthRetrying } from "./parts/failures";
import { Hints } from "./parts/Hint";
import { nonce } from "./parts/nonce";
import { sure } from "./parts/sure";
import "@fontsource-variable/archivo";
import "@fontsource-variable/martian-mono";
import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { api, settled } from "./api/client";
import { fetchTables } from "./api/tables";
import { Away } from "./frame/Away";
import { Frame } from "./frame/Frame";
import { firstOf } from "./frame/lastProject";
import { savedTheme, wear } from "./frame/theme";
import "./look.css";

/** To the project of last time; where there is none, one is made. */
function First() {
  const projects = useQuery({
    queryKey: ["projects"],
    queryFn: async () => {
      const found = await settled(api.GET("/api/projects"));
      return found.length
        ? found
        : [await settled(api.POST("/api/projects", { body: { title: "First project" } }))];
    },
  });
  if (projects.error)
    return (
      <main className="p-4 text-stop">
        The projects could not be read: {projects.error.message}
      </main>
    );
  return projects.data ? (
    <Navigate to={`/p/${firstOf(projects.data).name}/tray`} replace />
  ) : (
    <main className="p-4">Opening…</main>
  );
}

/** What was just answered is not asked for again by the next part that is drawn; a change asks anew. */
const FRESH_MS = 2000;
const queries = new QueryClient({
  defaultOptions: {
    queries: { retry: isWorthRetrying, staleTime: FRESH_MS, networkMode: "always" },
    mutations: { networkMode: "always" }, // the server is on this machine, whatever its network does
  },
});
fetchTables(queries);

// Styles that a library adds while it runs name the answer's nonce; the policy refuses all others.
Object.assign(globalThis, { __webpack_nonce__: nonce() });
wear(savedTheme());
createRoot(sure(document.getElementById("root"), "the page's root")).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Hints>
        <Away />
        <BrowserRouter>
          <Routes>
            <Route path="/p/:project/*" element={<Frame />} />
            <Route path="*" element={<First />} />
          </Routes>
        </BrowserRouter>
      </Hints>
    </QueryClientProvider>
  </StrictMode>,
);
