import { api } from "./client";

/** A name under which the progress of requests can be asked for. */
export const watchName = (): string => Math.random().toString(36).slice(2);

/** The header that names a request for those who follow it. */
export const watched = (name: string) => ({ header: { Watch: name } });

/** How far the request of a name has come. */
export const progressQuery = (watch: string) =>
  api.queryOptions(
    "get",
    "/api/progress/{watch}",
    { params: { path: { watch } } },
    { refetchInterval: 150, gcTime: 0, staleTime: 0, retry: false },
  );
