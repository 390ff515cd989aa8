import { infiniteQueryOptions, queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { Behind, PaidOutRow, SheetRow, TieOut } from "./types";

/** The days and the bridge or company that a sheet is asked for; without days, the current month. */
export interface SheetOf {
  first?: string;
  last?: string;
  bridge?: string;
  company?: string;
}

/** Which amount of the sheet, as its row says it. */
export interface AmountOf {
  section?: string;
  currency?: string;
  tax_code?: string;
  tender?: string;
  connection?: string;
  account?: string;
  reason?: string;
  detail?: string;
}

const at = (workspace: string) => `/workspaces/${workspace}/tie-out`;

export const sheetQuery = (workspace: string, of: SheetOf) =>
  queryOptions({
    queryKey: [workspace, "tie-out", of],
    queryFn: () => http.get<TieOut>(withQuery(at(workspace), { ...of })),
  });

/** The headline of every day. */
export const sheetDaysQuery = (workspace: string, of: SheetOf) =>
  queryOptions({
    queryKey: [workspace, "tie-out", "days", of],
    queryFn: () => http.get<SheetRow[]>(withQuery(`${at(workspace)}/days`, { ...of })),
  });

/** What was paid out, kind by kind. */
export const paidOutQuery = (workspace: string, of: SheetOf) =>
  queryOptions({
    queryKey: [workspace, "tie-out", "payouts", of],
    queryFn: () => http.get<PaidOutRow[]>(withQuery(`${at(workspace)}/payouts`, { ...of })),
  });

/** The documents behind an amount, page by page. */
export const behindQuery = (workspace: string, of: SheetOf, amount: AmountOf) =>
  infiniteQueryOptions({
    queryKey: [workspace, "tie-out", "documents", of, amount],
    queryFn: ({ pageParam }) =>
      http.get<Behind>(withQuery(`${at(workspace)}/documents`, { ...of, ...amount, after: pageParam ? String(pageParam) : undefined })),
    initialPageParam: 0,
    getNextPageParam: (page: Behind) => page.after ?? undefined,
  });
