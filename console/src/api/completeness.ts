import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import { goesOn, LOOK_AGAIN_MS } from "./rehearsals";
import type { SheetOf } from "./tieout";
import type { BridgeCompleteness, CompletenessCheck, Lacking, Page } from "./types";

const at = (workspace: string) => `/workspaces/${workspace}/completeness`;

/** Of each bridge the newest check of these days; asked for again while one goes on. */
export const completenessQuery = (workspace: string, of: SheetOf) =>
  queryOptions({
    queryKey: [workspace, "completeness", of],
    queryFn: () => http.get<BridgeCompleteness[]>(withQuery(at(workspace), { ...of })),
    refetchInterval: (query) => (query.state.data?.some((one) => goesOn(one.under_way ?? undefined)) ? LOOK_AGAIN_MS : false),
  });

/** What is lacking on these days, the first hundred. */
export const lackingQuery = (workspace: string, of: SheetOf) =>
  queryOptions({
    queryKey: [workspace, "completeness", "lacking", of],
    queryFn: () => http.get<Page<Lacking>>(withQuery(`${at(workspace)}/lacking`, { ...of, limit: 100 })),
  });

export interface DaysToCheck {
  bridge: string;
  first: string;
  last: string;
}

export const checkCompleteness = (workspace: string, given: DaysToCheck) => http.post<CompletenessCheck>(`${at(workspace)}/checks`, given);
