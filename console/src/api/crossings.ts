import { keepPreviousData, queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { Crossing, Page, SpreadAnswer } from "./types";

export type CrossingQuery = Record<string, string | readonly string[] | undefined>;

export const crossingsQuery = (workspace: string, query: CrossingQuery) =>
  queryOptions({
    queryKey: [workspace, "crossings", query],
    queryFn: () => http.get<Page<Crossing>>(withQuery(`/workspaces/${workspace}/crossings`, query)),
    placeholderData: keepPreviousData,
  });

export const spreadQuery = (workspace: string, number: string) =>
  queryOptions({
    queryKey: [workspace, "crossing", number],
    queryFn: () => http.get<SpreadAnswer>(`/workspaces/${workspace}/crossings/${number}`),
  });

export const release = (workspace: string, given: { cause?: string; crossings?: number[] }) =>
  http.post<{ released: number }>(`/workspaces/${workspace}/crossings/release`, given);
