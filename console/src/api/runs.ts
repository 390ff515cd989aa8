import { queryOptions } from "@tanstack/react-query";

import { http } from "./http";
import type { Run, RunHead } from "./types";

const LOOK_AGAIN_MS = 700;

export const underWay = (run: Pick<RunHead, "state"> | undefined) =>
  run?.state === "reading" || run?.state === "carrying";

/** A run, asked for again and again until it ends. */
export const runQuery = (workspace: string, number: number) =>
  queryOptions({
    queryKey: [workspace, "run", number],
    queryFn: () => http.get<Run>(`/workspaces/${workspace}/runs/${number}`),
    refetchInterval: (query) => (query.state.data && !underWay(query.state.data) ? false : LOOK_AGAIN_MS),
  });

export const startRun = (workspace: string, bridge: string) =>
  http.post<RunHead>(`/workspaces/${workspace}/bridges/${bridge}/runs`);

/** End a run that does not come to an end; what it has read is carried all the same. */
export const stopRun = (workspace: string, run: number) =>
  http.post<RunHead>(`/workspaces/${workspace}/runs/${run}/stop`);
