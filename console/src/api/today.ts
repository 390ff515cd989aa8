import { queryOptions } from "@tanstack/react-query";

import { http } from "./http";
import type { Today } from "./types";

export const todayQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "today"],
    queryFn: () => http.get<Today>(`/workspaces/${workspace}/today`),
    refetchInterval: 30_000,
  });
