import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { ThemeProvider } from "@mui/material/styles";
import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Suspense } from "react";
import { BrowserRouter, Route, Routes } from "react-router-dom";
import { hashOf } from "../api/hash";
import { askAgain, patience } from "../api/queries";
import { later } from "../ui/later";
import { Admitted } from "./Admitted";
import { BenchGate } from "./BenchGate";
import { views } from "./chunks";
import { ErrorBoundary } from "./ErrorBoundary";
import { LastBench } from "./LastBench";
import { AtDesk, Shell, ToScreens } from "./Shell";
import { theme } from "./theme";

const BeginView = later(() => import("../views/begin/BeginView"));
const GivenView = later(() => import("../views/given/GivenView"));
const HandbookView = later(() => import("../views/handbook/HandbookView"));
const ProgramView = later(() => import("../views/program/ProgramView"));
const ShelfView = later(() => import("../views/shelf/ShelfView"));

// An answer is drawn as soon as it is there, not a timer later.
notifyManager.setScheduler(queueMicrotask);

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: askAgain,
      retryDelay: patience,
      refetchOnWindowFocus: false,
      networkMode: "always",
      queryKeyHashFn: hashOf,
    },
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
                        {Object.entries(views).map(([path, View]) => (
                          <Route key={path} path={path} element={<View />} />
                        ))}
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
