import { api, client, unwrap, type Bench, type Schemas, type Setup } from "./client";

export type RealTable = Schemas["RealTable"];
export type Recall = Schemas["Recall"];
export type DataLines = Schemas["DataLines"];
export type Oscillator = Schemas["Oscillator"];
export type Voltage = Schemas["Voltage"];
export type Uploaded = Schemas["Uploaded"];
export type Resting = NonNullable<Schemas["ConnectRequest"]["rest"]>;
/** What of a test a board does by itself, once it is asked. */
export type Act = Schemas["ActRequest"]["act"];

/** How things stand with the real table; the page is told of changes (useWatch). */
export const realTableQuery = { ...api.queryOptions("get", "/api/table"), staleTime: Infinity, retry: false };

/** Where the page is told how things stand with the real table. */
export const WATCH = "/api/table/watch";

/** The serial ports of this computer; they are looked up anew whenever they are shown. */
export const portsQuery = {
  ...api.queryOptions("get", "/api/table/ports"),
  staleTime: 0,
  refetchInterval: 2000,
};

/** Whether the bridge of a bench can be put onto its board from here. */
export const loaderQuery = (bench: Bench) =>
  api.queryOptions("post", "/api/table/loader", { body: { bench } }, { staleTime: 10_000 });

/** Builds the bridge of a bench, and puts it onto the board at a port. */
export const upload = async (body: Schemas["UploadRequest"]) =>
  unwrap(await client.POST("/api/table/upload", { body }));

/** What a module of the stand-in shows. */
export const standInQuery = (module: number) => ({
  ...api.queryOptions("get", "/api/table/glass/{module}", { params: { path: { module } } }),
  refetchInterval: 300,
  retry: false,
});

/** Opens a port, and drives what is at it. */
export const connect = async (body: Schemas["ConnectRequest"]) =>
  unwrap(await client.POST("/api/table/connect", { body }));

/** Lets the pins rest, and closes the port. */
export const disconnect = async () => unwrap(await client.POST("/api/table/disconnect"));

/** Lets this page drive. */
export const takeOver = async (by: string) => unwrap(await client.POST("/api/table/drive", { body: { by } }));

/** Shows a screen on the real glass. */
export const showThere = async (by: string, setup: Setup) =>
  unwrap(await client.POST("/api/table/show", { body: { by, setup } }));

/** Does what a board does by itself of a test. */
export const actThere = async (by: string, act: Act, setup: Setup) =>
  unwrap(await client.POST("/api/table/act", { body: { by, act, setup } }));

/** Tells that modules or links have changed. */
export const rewire = async (by: string, bench: Bench) =>
  unwrap(await client.POST("/api/table/bench", { body: { by, bench } }));

/** Asks the real bus who answers. */
export const scanThere = async () => unwrap(await client.POST("/api/table/scan"));

/** Reads what a real module holds. */
export const recall = async (module: number) => unwrap(await client.POST("/api/table/memory", { body: { module } }));

/** Tries a real module's data lines. */
export const linesThere = async (by: string, module: number) =>
  unwrap(await client.POST("/api/table/lines", { body: { by, module } }));

/** Times a real module's busy flag. */
export const oscillatorThere = async (by: string, module: number) =>
  unwrap(await client.POST("/api/table/oscillator", { body: { by, module } }));

/** Measures the voltage of a free pin of the host, which comes from a module. */
export const measureThere = async (pin: string, module: number) =>
  unwrap(await client.POST("/api/table/measure", { body: { pin, module } }));

/** Plays a module's show on the real glass by the host's own inputs, or ends it. */
export const playThere = async (by: string, bench: Bench, module: number, stop: boolean) =>
  unwrap(await client.POST("/api/table/play", { body: { by, bench, module, stop } }));

/** Tells of an input of the show that is played there: its value, or what comes over its line. */
export const pressThere = async (by: string, input: string, what: { value?: number; text?: string }) =>
  unwrap(await client.POST("/api/table/press", { body: { by, input, ...what } }));

/** Where the events of the show that is played there are. */
export const EVENTS_THERE = "/api/table/events.csv";

/** Carries operations out on a real module, and gives the bytes that were read. */
export const handThere = async (body: Schemas["HandRequest"]) =>
  unwrap(await client.POST("/api/table/hand", { body })).read;

/** Makes a fault in a module of the stand-in; an empty id takes it out. */
export const putIn = async (module: number, id: string) =>
  unwrap(await client.POST("/api/table/fault", { body: { module, id } }));

/** Makes in the stand-in what a round of practice hides; once the round is over it is taken out. */
export const hideThere = async (by: string, round: string) =>
  unwrap(await client.POST("/api/table/practice", { body: { by, round } }));
