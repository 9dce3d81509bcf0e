import { type QueryClient, queryOptions, useSuspenseQuery } from "@tanstack/react-query";
import { api, settled } from "./client";

/**
 * Tables that the server never changes. A place waits for what it shows of them: a press that came
 * before would find nothing to act on, and be lost. They are asked for as the application opens, so
 * that no part of a place that is drawn later takes the whole place away while its table comes.
 */

const staleTime = Infinity;
const TABLES = {
  quantities: queryOptions({
    queryKey: ["quantities"],
    queryFn: () => settled(api.GET("/api/quantities")),
    staleTime,
  }),
  formats: queryOptions({
    queryKey: ["formats"],
    queryFn: () => settled(api.GET("/api/formats")),
    staleTime,
  }),
  corrections: queryOptions({
    queryKey: ["corrections"],
    queryFn: () => settled(api.GET("/api/corrections")),
    staleTime,
  }),
  operations: queryOptions({
    queryKey: ["operations"],
    queryFn: () => settled(api.GET("/api/operations")),
    staleTime,
  }),
};

/** Ask for all of them; one that does not come is asked for again by what shows it. */
export function fetchTables(client: QueryClient): void {
  void client.prefetchQuery(TABLES.quantities);
  void client.prefetchQuery(TABLES.formats);
  void client.prefetchQuery(TABLES.corrections);
  void client.prefetchQuery(TABLES.operations);
}

/** What a master can be. */
export const useQuantities = () => useSuspenseQuery(TABLES.quantities).data;

/** The formats that files are written in, and what each holds. */
export const useFormats = () => useSuspenseQuery(TABLES.formats).data;

/** What can be corrected of a given map, by its kind. */
export const useCorrections = () => useSuspenseQuery(TABLES.corrections).data;

/** Every way of every operation, with its controls. */
export const useOperations = () => useSuspenseQuery(TABLES.operations).data;
