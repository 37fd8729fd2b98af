import { api, client, unwrap, type Bench, type Schemas, type Setup } from "./client";

export type RealTable = Schemas["RealTable"];
export type Recall = Schemas["Recall"];
export type Resting = NonNullable<Schemas["ConnectRequest"]["rest"]>;

/** How often it is asked how things stand, in milliseconds: while a board is connected, and while none is. */
const CONNECTED_MS = 400;
const ALONE_MS = 5000;

/** How things stand with the real table. */
export const realTableQuery = {
  ...api.queryOptions("get", "/api/table"),
  staleTime: CONNECTED_MS,
  refetchInterval: (query: { state: { data?: RealTable } }) => (query.state.data?.connected ? CONNECTED_MS : ALONE_MS),
};

/** The serial ports of this computer; they are looked up anew whenever they are shown. */
export const portsQuery = {
  ...api.queryOptions("get", "/api/table/ports"),
  staleTime: 0,
  refetchInterval: 2000,
};

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
export const showThere = async (by: string, setup: Setup, anew = false, slow = false) =>
  unwrap(await client.POST("/api/table/show", { body: { by, setup, anew, slow } }));

/** Tells that modules or links have changed. */
export const rewire = async (by: string, bench: Bench) =>
  unwrap(await client.POST("/api/table/bench", { body: { by, bench } }));

/** Asks the real bus who answers. */
export const scanThere = async () => unwrap(await client.POST("/api/table/scan"));

/** Reads what a real module holds. */
export const recall = async (module: number) => unwrap(await client.POST("/api/table/memory", { body: { module } }));

/** Plays a module's show on the real glass by the host's own inputs, or ends it. */
export const playThere = async (by: string, bench: Bench, module: number, stop: boolean) =>
  unwrap(await client.POST("/api/table/play", { body: { by, bench, module, stop } }));

/** Tells of an input of the show that is played there. */
export const pressThere = async (by: string, input: string, value: number) =>
  unwrap(await client.POST("/api/table/press", { body: { by, input, value } }));

/** Where the events of the show that is played there are. */
export const EVENTS_THERE = "/api/table/events.csv";

/** Carries operations out on a real module, and gives the bytes that were read. */
export const handThere = async (body: Schemas["HandRequest"]) =>
  unwrap(await client.POST("/api/table/hand", { body })).read;

/** Makes a fault in a module of the stand-in; an empty id takes it out. */
export const putIn = async (module: number, id: string) =>
  unwrap(await client.POST("/api/table/fault", { body: { module, id } }));
