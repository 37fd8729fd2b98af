import { api, client, unwrap, type Schemas } from "./client";

export type Me = Schemas["Me"];
export type RoomState = Schemas["RoomState"];
export type Role = RoomState["devices"][number]["role"];
export type Seen = Schemas["Seen"];
export type Whereabouts = Schemas["Whereabouts"];

/** Who this page is: the desk, or a device that was let in. */
export const meQuery = { ...api.queryOptions("get", "/api/me"), staleTime: Infinity };

/** The room as the desk sees it; devices that ask are noticed within two seconds. */
export const roomQuery = { ...api.queryOptions("get", "/api/room"), staleTime: 0, refetchInterval: 2000 };

export const openRoom = async (body: Schemas["OpenRequest"]) => unwrap(await client.POST("/api/room", { body }));

export const makeCode = async () => unwrap(await client.POST("/api/room/code"));

/** Lets a device in that asks, or refuses it without a role. */
export const answerDevice = async (number: number, role?: Role) =>
  unwrap(await client.POST("/api/room/asking/{number}", { params: { path: { number } }, body: { role } }));

export const changeDevice = async (device: number, role: Role) =>
  unwrap(await client.PATCH("/api/room/devices/{device}", { params: { path: { device } }, body: { role } }));

export const removeDevice = async (device: number) =>
  unwrap(await client.DELETE("/api/room/devices/{device}", { params: { path: { device } } }));

/** Asks to be let in, by the code that the desk shows. */
export const askToJoin = async (code: string, name: string) =>
  unwrap(await client.POST("/api/join", { body: { code, name } }));

/** Waits until the desk has answered; "waits" where it has not yet. */
export const waitToJoin = async () => unwrap(await client.GET("/api/join"));

/** Where a page hears what happens on a bench. */
export const eventsOf = (bench: number, page: string, since: number) =>
  `/api/benches/${bench}/events?page=${encodeURIComponent(page)}&since=${since}`;

/** Tells where this page is on a bench. */
export const beHere = (id: number, page: string, body: Whereabouts) =>
  client.POST("/api/benches/{id}/here", { params: { path: { id }, query: { page } }, body });
