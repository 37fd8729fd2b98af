import { keepPreviousData, queryOptions, replaceEqualDeep, type QueryClient } from "@tanstack/react-query";
import {
  ApiError,
  api,
  client,
  lasting,
  unwrap,
  type Bench,
  type Display,
  type LiveOperation,
  type Module,
  type RunResult,
  type Schemas,
  type Setup,
} from "./client";
import { drawnOf, glassQuery } from "./glasses";
import { ask } from "./line";

/** Moments are read this many at a time. */
export const MOMENT_PAGE = 64;

/** Tells a query whether to ask again: what the server refuses it would refuse again; where none answers, one may soon. */
export const askAgain = (failures: number, e: Error): boolean =>
  e instanceof ApiError ? e.status >= 500 && failures < 1 : true;

/** Milliseconds before a query asks again. */
export const patience = (failures: number): number => Math.min(250 * 2 ** failures, 1000);

/** The benches, the last changed first. */
export const benchesQuery = api.queryOptions("get", "/api/benches");

/** The boards that are described on the stored benches. */
export const ownHostsQuery = api.queryOptions("get", "/api/hosts");

/** The benches in the bin. */
export const binQuery = api.queryOptions("get", "/api/bin");

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

/** What the modules of a bench show first, as it is stored at a revision; null of one that cannot be run. */
export const glassesQuery = (id: number, revision: number) =>
  queryOptions({
    queryKey: ["glasses", id, revision],
    queryFn: async () => unwrap(await client.GET("/api/benches/{id}/glasses", { params: { path: { id } } })),
    staleTime: Infinity,
  });

/** What is found on all modules of a bench as it is stored at a revision. */
export const checkQuery = (id: number, revision: number) =>
  queryOptions({
    queryKey: ["check", id, revision],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET("/api/benches/{id}/findings", { params: { path: { id } }, signal })),
    ...lasting,
  });

/** The states of a bench that are kept, as of a revision. */
export const statesQuery = (id: number, revision: number) =>
  queryOptions({
    queryKey: ["states", id, revision],
    queryFn: async () => unwrap(await client.GET("/api/benches/{id}/states", { params: { path: { id } } })),
    ...lasting,
    staleTime: 0,
  });

/** A bench as it stood at a revision. */
export const stateQuery = (id: number, revision: number) =>
  api.queryOptions(
    "get",
    "/api/benches/{id}/states/{revision}",
    { params: { path: { id, revision } } },
    { staleTime: 0, gcTime: 10_000 },
  );

/** The demo's bench, from which the handbook draws its pictures. */
export const demoQuery = api.queryOptions("get", "/api/demo", {}, { staleTime: Infinity });

export const catalogQuery = api.queryOptions("get", "/api/catalog", {}, { staleTime: Infinity });

/** What a run has beside the module's screen. */
export interface Extras {
  /** Operations given by hand, after the screen. */
  live: LiveOperation[];
  /** A mistake made on purpose, by its id in the catalogue of faults. */
  fault: Schemas["RunRequest"]["fault"];
}

export const noExtras: Extras = { live: [], fault: undefined };

/** The run of a screen as it stands: a change of it, or of its module, is another run. */
export const runQuery = (setup: Setup, extras: Extras) => {
  const body = { ...setup, ...extras };
  return queryOptions({
    queryKey: ["post", "/api/runs", { body }],
    queryFn: ({ signal }) => ask("/api/runs", body, signal),
    ...lasting,
  });
};

/**
 * Reads something of a run. A program that was started again knows none of the runs before: it is asked for this one
 * once more, as it was asked for then.
 */
async function ofRun<T>(queries: QueryClient, run: string, read: () => Promise<T>): Promise<T> {
  try {
    return await read();
  } catch (e) {
    const known = queries.getQueriesData<RunResult>({ queryKey: ["post", "/api/runs"] });
    const asked = known.find(([, data]) => data?.id === run)?.[0][2] as { body: Schemas["RunRequest"] } | undefined;
    if (!(e instanceof ApiError && e.status === 404 && asked)) throw e;
    await client.POST("/api/runs", asked);
    return read();
  }
}

/** The instruction set of a module's controller. */
export const instructionsQuery = ({ technology, controller }: Display) => {
  const of = technology === "vfd" ? (controller.family ?? "vfd-function-set") : "lcd";
  return api.queryOptions("get", "/api/instructions", { params: { query: { family: of } } }, { staleTime: Infinity });
};

/** The ROM of a module, code by code, and its slots; only what they depend on is sent. */
export const romQuery = ({ geometry, technology, controller: { rom, chart, font, oscillatorKHz } }: Display) =>
  api.queryOptions(
    "post",
    "/api/rom",
    { body: { geometry, technology, controller: { rom, chart, font, oscillatorKHz } } },
    { placeholderData: keepPreviousData, staleTime: Infinity },
  );

/** What each way of toggling E costs for a screen. */
export const waysQuery = (setup: Setup) => api.queryOptions("post", "/api/ways", { body: setup }, lasting);

/** What a bench as a whole comes to: pins, addresses, electrics, supply. */
export const planQuery = (bench: Bench) => api.queryOptions("post", "/api/plan", { body: bench }, lasting);

/** A screen whose module is joined up as it is on a table. */
export const joinedUp = (shown: Setup, { joined }: Pick<Schemas["WiringResult"], "joined">): Setup => ({
  ...shown,
  joined: joined[shown.at?.module ?? 0] ?? undefined,
});

/**
 * What lies on the table of a bench, or would. The screen that is shown is run with it, as its module is joined up there, so that its
 * run and its glass are at hand together with the drawing.
 */
export const wiringQuery = (bench: Bench, shown: Setup) =>
  queryOptions({
    queryKey: ["wiring", bench],
    queryFn: async ({ client: queries, signal }) => {
      const { run, ...result } = await ask("/api/wiring", { ...bench, shown }, signal);
      if (run) {
        const setup = joinedUp(shown, result);
        queries.setQueryData(runQuery(setup, noExtras).queryKey, run);
        queries.setQueryData(glassQuery(setup).queryKey, drawnOf(run));
      }
      const drawn = queries.getQueriesData<typeof result>({ queryKey: ["wiring"], type: "active" });
      return replaceEqualDeep(drawn.find(([, data]) => data)?.[1], result); // what is the same is not drawn again
    },
    ...lasting,
  });

/** The steps of a guided power-up of a module, by its index. */
export const firstLightQuery = (bench: Bench, module: number) =>
  api.queryOptions("post", "/api/wiring/first-light", { body: { bench, module } }, lasting);

/** Backlight resistor and contrast of a module, worked out; its text does not matter. */
export const figuresQuery = (of: Module) => {
  const body: Module = { ...of, glyphs: undefined, show: undefined, screens: [{ id: "screen-1", rows: [] }] };
  return api.queryOptions("post", "/api/wiring/figures", { body }, lasting);
};

/** The drawing that a module is mounted behind. */
export const cutoutQuery = (body: Schemas["CutoutRequest"]) =>
  api.queryOptions("post", "/api/wiring/cutout", { body }, lasting);

/** The links that a module of a bench can have, by its index. */
export const linksQuery = (bench: Bench, module: number) =>
  api.queryOptions("post", "/api/plan/links", { body: { bench, module } }, lasting);

/** Where an input of a module's show can be joined to the host. */
export const inputPlacesQuery = (bench: Bench, module: number, input: number) =>
  api.queryOptions("post", "/api/plan/inputs", { body: { bench, module, input } }, lasting);

/** A scan of the simulated bus. */
export const scanQuery = (bench: Bench, at: Omit<Schemas["Scan-busRequest"], "bench">) =>
  api.queryOptions("post", "/api/plan/scan", { body: { bench, ...at } }, lasting);

/** What a scanner printed, held against a bench; a refusal says that nothing can be read. */
export const printoutQuery = (bench: Bench, channel: number, text: string) =>
  api.queryOptions(
    "post",
    "/api/plan/printout",
    { body: { bench, channel, text } },
    { enabled: text.trim() !== "", retry: false, staleTime: Infinity, gcTime: 10_000 },
  );

/** The steps at which a run is to stop. */
export const stopsQuery = (run: string, at: string) =>
  queryOptions({
    queryKey: ["stops", run, at],
    queryFn: ({ signal, client: queries }) =>
      ofRun(queries, run, async () =>
        unwrap(await client.GET("/api/runs/{run}/stops", { params: { path: { run }, query: { at } }, signal })),
      ),
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** Waveforms of the steps around one. */
export const wavesQuery = (run: string, from: number, to: number) =>
  queryOptions({
    queryKey: ["waves", run, from, to],
    queryFn: ({ signal, client: queries }) =>
      ofRun(queries, run, async () =>
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
    queryFn: ({ signal, client: queries }) =>
      ofRun(queries, run, async () =>
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
