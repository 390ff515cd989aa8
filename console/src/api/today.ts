import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { TieOutInFull, Today } from "./types";

export const todayQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "today"],
    queryFn: () => http.get<Today>(`/workspaces/${workspace}/today`),
    refetchInterval: 30_000,
  });

export const tieOutQuery = (workspace: string, first: string, last: string) =>
  queryOptions({
    queryKey: [workspace, "tie-out", first, last],
    queryFn: () => http.get<TieOutInFull>(withQuery(`/workspaces/${workspace}/tie-out`, { first, last })),
  });
