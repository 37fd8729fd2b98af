import { api, client, unwrap, type Bench, type Schemas } from "./client";
import { watched } from "./progress";

export type GivenCopy = Schemas["GivenCopy"];
export type Contest = NonNullable<Schemas["ContestState"]["contest"]>;

/** How far the copies of a bench are that were given out; it is looked up every two seconds. */
export const givenQuery = (id: number) =>
  api.queryOptions("get", "/api/benches/{id}/given", { params: { path: { id } } }, { refetchInterval: 2000 });

/** The contest of a bench, or of the one that it is a copy of. */
export const contestQuery = (id: number) =>
  api.queryOptions("get", "/api/benches/{id}/contest", { params: { path: { id } } }, { staleTime: 0 });

export const giveOut = async (id: number, names: string[]) =>
  unwrap(await client.POST("/api/benches/{id}/given", { params: { path: { id } }, body: { names } }));

/** Where all copies of a bench are collected. */
export const collected = (id: number) => `/api/benches/${id}/given.zip`;

export const beginContest = async (
  id: number,
  body: { bench: Bench; module: number; screen: number; level: number; rounds: number },
) => unwrap(await client.PUT("/api/benches/{id}/contest", { params: { path: { id } }, body }));

export const endContest = (id: number) => client.DELETE("/api/benches/{id}/contest", { params: { path: { id } } });

export const beginContestRound = async (id: number, nth: number, watch: string) =>
  unwrap(
    await client.POST("/api/benches/{id}/contest/rounds/{nth}", {
      params: { path: { id, nth }, ...watched(watch) },
    }),
  );
