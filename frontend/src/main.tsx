import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router-dom";
import { loadCatalogue } from "./api/catalogue";
import { NewProjectScreen } from "./projects/NewProjectScreen";
import { ProjectsScreen } from "./projects/ProjectsScreen";
import "./theme.css";
import { layPaper } from "./ui/paper";

const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, staleTime: 30_000 } },
});

layPaper();
/** The first screen does not wait for what draws models; that comes while one looks for a project. */
const shell = () => import("./ProjectShell");
const ProjectShell = lazy(async () => ({ default: (await shell()).ProjectShell }));

const root = createRoot(document.getElementById("root")!);
const application = (
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Tooltip.Provider delayDuration={500}>
        <BrowserRouter>
          <Suspense fallback={<p className="p-8 text-soft">Opening …</p>}>
            <Routes>
              <Route path="/" element={<ProjectsScreen />} />
              <Route path="/new" element={<NewProjectScreen />} />
              <Route path="/p/:project/*" element={<ProjectShell />} />
              <Route path="*" element={<Navigate to="/" replace />} />
            </Routes>
          </Suspense>
        </BrowserRouter>
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>
);

/** Nothing can be drawn without the catalogue: until the server answers, it is asked again. */
async function start() {
  try {
    await loadCatalogue();
  } catch {
    root.render(<p className="p-8 text-soft">The server does not answer yet …</p>);
    setTimeout(start, 1000);
    return;
  }
  root.render(application);
  void shell().then(({ makeReady }) => makeReady());
}

void start();
