import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import {
  ApiError,
  client,
  unwrap,
  type Bench,
  type Display,
  type LiveOperation,
  type Module,
  type Schemas,
  type Setup,
} from "./client";

/** Moments are read this many at a time. */
export const MOMENT_PAGE = 64;

/** Tells a query whether to ask again: what the server refuses it would refuse again; where none answers, one may soon. */
export const askAgain = (failures: number, e: Error): boolean =>
  e instanceof ApiError ? e.status >= 500 && failures < 1 : true;

/** Milliseconds before a query asks again. */
export const patience = (failures: number): number => Math.min(250 * 2 ** failures, 1000);

/** The benches, the last changed first. */
export const benchesQuery = queryOptions({
  queryKey: ["benches"],
  queryFn: async () => unwrap(await client.GET("/api/benches")),
});

/** The boards that are described on the stored benches. */
export const ownHostsQuery = queryOptions({
  queryKey: ["hosts"],
  queryFn: async () => unwrap(await client.GET("/api/hosts")),
});

/** The benches in the bin. */
export const binQuery = queryOptions({
  queryKey: ["bin"],
  queryFn: async () => unwrap(await client.GET("/api/bin")),
});

/**
 * A bench as it is stored. It is read afresh whenever it is opened.
 * @param after settles once nothing of it is under way any more
 */
export const benchQuery = (id: number, after: () => Promise<unknown>) =>
  queryOptions({
    queryKey: ["bench", id],
    queryFn: async () => {
      await after();
      return unwrap(await client.GET("/api/benches/{id}", { params: { path: { id } } }));
    },
    staleTime: Infinity,
    gcTime: 0,
  });

/** What is found on all modules of a bench as it is stored at a revision. */
/** What the modules of a bench show first; null of one that cannot be run. */
export const glassesQuery = (id: number, revision: number) =>
  queryOptions({
    queryKey: ["glasses", id, revision],
    queryFn: async () => unwrap(await client.GET("/api/benches/{id}/glasses", { params: { path: { id } } })),
    staleTime: Infinity,
  });

export const checkQuery = (id: number, revision: number) =>
  queryOptions({
    queryKey: ["check", id, revision],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET("/api/benches/{id}/findings", { params: { path: { id } }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** The states of a bench that are kept, as of a revision. */
export const statesQuery = (id: number, revision: number) =>
  queryOptions({
    queryKey: ["states", id, revision],
    queryFn: async () => unwrap(await client.GET("/api/benches/{id}/states", { params: { path: { id } } })),
    placeholderData: keepPreviousData,
    staleTime: 0,
    gcTime: 10_000,
  });

/** A bench as it stood at a revision. */
export const stateQuery = (id: number, revision: number) =>
  queryOptions({
    queryKey: ["state", id, revision],
    queryFn: async () =>
      unwrap(await client.GET("/api/benches/{id}/states/{revision}", { params: { path: { id, revision } } })),
    staleTime: 0,
    gcTime: 10_000,
  });

export const catalogQuery = queryOptions({
  queryKey: ["catalog"],
  queryFn: async () => unwrap(await client.GET("/api/catalog")),
  staleTime: Infinity,
});

/** What a run has beside the module's screen. */
export interface Extras {
  /** Operations given by hand, after the screen. */
  live: LiveOperation[];
  /** A mistake made on purpose, by its id in the catalogue of faults. */
  fault: Schemas["RunRequest"]["fault"];
}

export const noExtras: Extras = { live: [], fault: undefined };

type RunRequest = Schemas["RunRequest"];

/** What the last runs were asked for with, by their id: a program that was started again knows none of them. */
const asked = new Map<string, RunRequest>();
const ASKED = 40;

async function askRun(body: RunRequest, signal?: AbortSignal) {
  const run = unwrap(await client.POST("/api/runs", { body, signal }));
  asked.delete(run.id);
  asked.set(run.id, body);
  for (const oldest of asked.keys()) {
    if (asked.size <= ASKED) break;
    asked.delete(oldest);
  }
  return run;
}

/** The run of a screen as it stands: a change of it, or of its module, is another run. */
export const runQuery = (setup: Setup, extras: Extras) =>
  queryOptions({
    queryKey: ["run", setup, extras],
    queryFn: ({ signal }) => askRun({ ...setup, ...extras }, signal),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** Reads something of a run; where the program does not know the run any more, it is asked for once more. */
async function ofRun<T>(run: string, read: () => Promise<T>): Promise<T> {
  try {
    return await read();
  } catch (e) {
    const request = asked.get(run);
    if (!(e instanceof ApiError && e.status === 404 && request)) throw e;
    await askRun(request);
    return read();
  }
}

/** The instruction set of a module's controller. */
export const instructionsQuery = ({ technology, controller }: Display) => {
  const of = technology === "vfd" ? (controller.family ?? "vfd-function-set") : "lcd";
  return queryOptions({
    queryKey: ["instructions", of],
    queryFn: async () => unwrap(await client.GET("/api/instructions", { params: { query: { family: of } } })),
    staleTime: Infinity,
  });
};

/** The ROM of a module, code by code; only its ROM and chart matter. */
export const romQuery = (display: Display) =>
  queryOptions({
    queryKey: ["rom", display.controller.rom, display.controller.chart],
    queryFn: async () => unwrap(await client.POST("/api/rom", { body: display })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });

/** What each way of toggling E costs for a screen. */
export const waysQuery = (setup: Setup) =>
  queryOptions({
    queryKey: ["ways", setup],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/ways", { body: setup, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** What a bench as a whole comes to: pins, addresses, electrics, supply. */
export const planQuery = (bench: Bench) =>
  queryOptions({
    queryKey: ["plan", bench],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/plan", { body: bench, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** What lies on the table of a bench, or would. */
export const wiringQuery = (bench: Bench) =>
  queryOptions({
    queryKey: ["wiring", bench],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/wiring", { body: bench, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** The steps of a guided power-up of a module, by its index. */
export const firstLightQuery = (bench: Bench, module: number) =>
  queryOptions({
    queryKey: ["first light", bench, module],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST("/api/wiring/first-light", { body: { bench, module }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** Backlight resistor and contrast of a module, worked out; its text does not matter. */
export const figuresQuery = (of: Module) => {
  const body: Module = { ...of, glyphs: undefined, show: undefined, screens: [{ id: "screen-1", rows: [] }] };
  return queryOptions({
    queryKey: ["figures", body],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/wiring/figures", { body, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });
};

/** The drawing that a module is mounted behind. */
export const cutoutQuery = (body: Schemas["CutoutRequest"]) =>
  queryOptions({
    queryKey: ["cutout", body],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/wiring/cutout", { body, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** The links that a module of a bench can have, by its index. */
export const linksQuery = (bench: Bench, module: number) =>
  queryOptions({
    queryKey: ["links", bench, module],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/plan/links", { body: { bench, module }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** Where an input of a module's show can be joined to the host. */
export const inputPlacesQuery = (bench: Bench, module: number, input: number) =>
  queryOptions({
    queryKey: ["inputs", bench, module, input],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST("/api/plan/inputs", { body: { bench, module, input }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** A scan of the simulated bus. */
export const scanQuery = (bench: Bench, at: Omit<Schemas["Scan-busRequest"], "bench">) =>
  queryOptions({
    queryKey: ["scan", bench, at],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/plan/scan", { body: { bench, ...at }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** What a scanner printed, held against a bench; a refusal says that nothing can be read. */
export const printoutQuery = (bench: Bench, channel: number, text: string) =>
  queryOptions({
    queryKey: ["printout", bench, channel, text],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST("/api/plan/printout", { body: { bench, channel, text }, signal })),
    enabled: text.trim() !== "",
    retry: false,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** The steps at which a run is to stop. */
export const stopsQuery = (run: string, at: string) =>
  queryOptions({
    queryKey: ["stops", run, at],
    queryFn: ({ signal }) =>
      ofRun(run, async () =>
        unwrap(await client.GET("/api/runs/{run}/stops", { params: { path: { run }, query: { at } }, signal })),
      ),
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** Waveforms of the steps around one. */
export const wavesQuery = (run: string, from: number, to: number) =>
  queryOptions({
    queryKey: ["waves", run, from, to],
    queryFn: ({ signal }) =>
      ofRun(run, async () =>
        unwrap(await client.GET("/api/runs/{run}/waves", { params: { path: { run }, query: { from, to } }, signal })),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 30_000,
  });

/** A page of moments of a run. */
export const momentsQuery = (run: string, page: number) =>
  queryOptions({
    queryKey: ["moments", run, page],
    queryFn: ({ signal }) =>
      ofRun(run, async () =>
        unwrap(
          await client.GET("/api/runs/{run}/moments", {
            params: { path: { run }, query: { from: page * MOMENT_PAGE, count: MOMENT_PAGE } },
            signal,
          }),
        ),
      ),
    staleTime: Infinity,
    gcTime: 30_000,
  });
