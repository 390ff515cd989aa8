import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { DailyRate, KeptRates, Page } from "./types";

const at = (workspace: string, company: string) => `/workspaces/${workspace}/companies/${company}/exchange-rates`;

export const ratesQuery = (workspace: string, company: string, currency: string, cursor: string) =>
  queryOptions({
    queryKey: [workspace, "exchange rates", company, currency, cursor],
    queryFn: () => http.get<Page<DailyRate>>(withQuery(at(workspace, company), { currency, cursor, limit: 10 })),
    enabled: company !== "",
  });

export const keepRate = (workspace: string, company: string, given: { currency: string; day: string; rate: string; source: string }) =>
  http.put<KeptRates>(at(workspace, company), {
    rates: [{ currency: given.currency, day: given.day, rate: given.rate }],
    source: given.source,
  });

export function loadRates(workspace: string, company: string, file: File, source: string) {
  const form = new FormData();
  form.append("file", file);
  form.append("source", source);
  return http.post<KeptRates>(`${at(workspace, company)}/file`, form);
}

export const removeRate = (workspace: string, company: string, rate: DailyRate) =>
  http.delete(`${at(workspace, company)}/${rate.currency}/${rate.day}`);
