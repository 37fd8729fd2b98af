import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { ThemeProvider } from "@mui/material/styles";
import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import { BrowserRouter, Route, Routes } from "react-router-dom";
import { askAgain, patience } from "../api/queries";
import { Admitted } from "./Admitted";
import { BenchGate } from "./BenchGate";
import { ErrorBoundary } from "./ErrorBoundary";
import { LastBench } from "./LastBench";
import { AtDesk, Shell, ToScreens } from "./Shell";
import { theme } from "./theme";

const BeginView = lazy(() => import("../views/begin/BeginView"));
const BenchView = lazy(() => import("../views/bench/BenchView"));
const BusView = lazy(() => import("../views/bus/BusView"));
const CodeView = lazy(() => import("../views/code/CodeView"));
const FaultsView = lazy(() => import("../views/faults/FaultsView"));
const GivenView = lazy(() => import("../views/given/GivenView"));
const GlyphsView = lazy(() => import("../views/glyphs/GlyphsView"));
const HandbookView = lazy(() => import("../views/handbook/HandbookView"));
const LogView = lazy(() => import("../views/log/LogView"));
const ModuleView = lazy(() => import("../views/module/ModuleView"));
const ProgramView = lazy(() => import("../views/program/ProgramView"));
const RecordingView = lazy(() => import("../views/recording/RecordingView"));
const RunView = lazy(() => import("../views/run/RunView"));
const ScenesView = lazy(() => import("../views/scenes/ScenesView"));
const ScreensView = lazy(() => import("../views/screens/ScreensView"));
const WiringView = lazy(() => import("../views/wiring/WiringView"));
const ShelfView = lazy(() => import("../views/shelf/ShelfView"));

// An answer is drawn as soon as it is there, not a timer later.
notifyManager.setScheduler(queueMicrotask);

const queries = new QueryClient({
  defaultOptions: {
    queries: { retry: askAgain, retryDelay: patience, refetchOnWindowFocus: false, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});

// The page's policy lets in style rules that carry the nonce of its answer.
const nonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content;
const styles = createCache({ key: "sb", nonce, prepend: true });

export function App() {
  return (
    <CacheProvider value={styles}>
      <ThemeProvider theme={theme} defaultMode="system">
        <QueryClientProvider client={queries}>
          <BrowserRouter>
            <ErrorBoundary>
              <Suspense>
                <Admitted>
                  <Routes>
                    <Route path="/benches" element={<ShelfView />} />
                    <Route path="/benches/new" element={<BeginView />} />
                    <Route path="/handbook/:page?" element={<HandbookView />} />
                    <Route path="/program" element={<ProgramView />} />
                    <Route path="/given/:bench" element={<GivenView />} />
                    <Route path="/benches/:bench/:module?" element={<BenchGate />}>
                      <Route element={<Shell />}>
                        <Route path="bench" element={<BenchView />} />
                        <Route path="wiring" element={<WiringView />} />
                        <Route path="bus" element={<BusView />} />
                        <Route path="module" element={<ModuleView />} />
                        <Route path="glyphs" element={<GlyphsView />} />
                        <Route path="screens" element={<ScreensView />} />
                        <Route path="scenes" element={<ScenesView />} />
                        <Route path="run" element={<RunView />} />
                        <Route path="recording" element={<RecordingView />} />
                        <Route path="code" element={<CodeView />} />
                        <Route path="faults" element={<FaultsView />} />
                        <Route path="log" element={<LogView />} />
                        <Route path="light" element={<AtDesk view="wiring" />} />
                        <Route path="card" element={<AtDesk view="code" />} />
                      </Route>
                      <Route path="*" element={<ToScreens />} />
                      <Route index element={<ToScreens />} />
                    </Route>
                    <Route path="*" element={<LastBench />} />
                  </Routes>
                </Admitted>
              </Suspense>
            </ErrorBoundary>
          </BrowserRouter>
        </QueryClientProvider>
      </ThemeProvider>
    </CacheProvider>
  );
}
