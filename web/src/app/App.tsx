import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { ThemeProvider } from "@mui/material/styles";
import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router-dom";
import { ApiError } from "../api/client";
import { BenchGate } from "../bench/BenchGate";
import { ErrorBoundary } from "./ErrorBoundary";
import { Shell } from "./Shell";
import { theme } from "./theme";

const ModuleView = lazy(() => import("../module/ModuleView"));
const RunView = lazy(() => import("../run/RunView"));
const ScreenView = lazy(() => import("../screen/ScreenView"));

// An answer is drawn as soon as it is there, not a timer later.
notifyManager.setScheduler(queueMicrotask);

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // What the server refuses it would refuse again.
      retry: (failures, e) => failures < 1 && !(e instanceof ApiError && e.status < 500),
      refetchOnWindowFocus: false,
    },
  },
});

// The page's policy lets in style rules that carry the nonce of its answer.
const nonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content;
const styles = createCache({ key: "sb", nonce });

export function App() {
  return (
    <CacheProvider value={styles}>
      <ThemeProvider theme={theme} defaultMode="dark">
        <QueryClientProvider client={queries}>
          <BrowserRouter>
            <ErrorBoundary>
              <BenchGate>
                <Routes>
                  <Route element={<Shell />}>
                    <Route path="/screen" element={<ScreenView />} />
                    <Route path="/module" element={<ModuleView />} />
                    <Route path="/run" element={<RunView />} />
                    <Route path="*" element={<Navigate to="/screen" replace />} />
                  </Route>
                </Routes>
              </BenchGate>
            </ErrorBoundary>
          </BrowserRouter>
        </QueryClientProvider>
      </ThemeProvider>
    </CacheProvider>
  );
}
