import type { FetchQueryOptions, QueryClient, QueryKey } from "@tanstack/react-query";

/** What a query answers, asked for before a page is drawn with it, unless it is at hand; undefined where it fails. */
export async function ahead<T, K extends QueryKey>(
  queries: QueryClient,
  query: FetchQueryOptions<T, Error, T, K>,
): Promise<T | undefined> {
  await queries.prefetchQuery(query);
  return queries.getQueryData<T>(query.queryKey);
}
