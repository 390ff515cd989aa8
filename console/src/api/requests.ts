import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { Page, PaymentRequest } from "./types";

const at = (workspace: string) => `/workspaces/${workspace}/requests`;
const LOOK_AGAIN_MS = 1000;

export const requestsKey = (workspace: string) => [workspace, "requests"] as const;

export interface RequestFilters {
  standing: string;
  bridge: string;
  invoice: string;
  cursor: string;
}

/** Requests for payment, newest first; asked for again while one is on its way to the provider. */
export const requestsQuery = (workspace: string, filters: RequestFilters) =>
  queryOptions({
    queryKey: [...requestsKey(workspace), filters],
    queryFn: () => http.get<Page<PaymentRequest>>(withQuery(at(workspace), { ...filters, limit: 50 })),
    refetchInterval: (query) => (query.state.data?.items.some((one) => one.crossing_state === "waiting") ? LOOK_AGAIN_MS : false),
  });

export const makeRequest = (workspace: string, given: { bridge: string; invoice: string }) => http.post<PaymentRequest>(at(workspace), given);

export const cancelRequest = (workspace: string, number: number, note: string) =>
  http.post<PaymentRequest>(`${at(workspace)}/${number}/cancel`, { note });
