import { keepPreviousData, queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { LogEntry, Crossing, Page, SpreadAnswer } from "./types";

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
    // What waits is on its way, and its page shows where it comes to.
    refetchInterval: (query) => (query.state.data?.state === "waiting" ? WAITING_MS : false),
  });

const WAITING_MS = 1500;

/** Void the drafts of an order on trial. */
export const takeBack = (workspace: string, number: number) => http.post<Crossing>(`/workspaces/${workspace}/crossings/${number}/take-back`);

/** Let an order on trial go like any other. */
export const carryForGood = (workspace: string, number: number) =>
  http.post<Crossing>(`/workspaces/${workspace}/crossings/${number}/carry-for-good`);

export const release = (workspace: string, given: { cause?: string; crossings?: number[] }) =>
  http.post<{ released: number }>(`/workspaces/${workspace}/crossings/release`, given);

/** What happened to a document, and every call to an end about it. */
export const logQuery = (workspace: string, crossing: number) =>
  queryOptions({
    queryKey: [workspace, "log", crossing],
    queryFn: () => http.get<LogEntry[]>(`/workspaces/${workspace}/crossings/${crossing}/log`),
  });

export const logLines = (workspace: string, crossing: number) => `/api/v1/workspaces/${workspace}/crossings/${crossing}/log/lines`;
