import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { Page, Run, RunHead } from "./types";

const LOOK_AGAIN_MS = 700;
const LOOK_AT_LIST_AGAIN_MS = 3_000;

export const underWay = (run: Pick<RunHead, "state"> | undefined) =>
  run?.state === "reading" || run?.state === "carrying";

/** A run, asked for again and again until it ends. */
export const runQuery = (workspace: string, number: number) =>
  queryOptions({
    queryKey: [workspace, "run", number],
    queryFn: () => http.get<Run>(`/workspaces/${workspace}/runs/${number}`),
    refetchInterval: (query) => (query.state.data && !underWay(query.state.data) ? false : LOOK_AGAIN_MS),
  });

/** The runs of a workspace, newest first; looked at again while one of them is under way. */
export const runsQuery = (workspace: string, filters: { bridge?: string; state?: string; cursor?: string }) =>
  queryOptions({
    queryKey: [workspace, "runs", filters],
    queryFn: () =>
      http.get<Page<RunHead>>(
        withQuery(`/workspaces/${workspace}/runs`, {
          bridge__slug: filters.bridge,
          state: filters.state,
          cursor: filters.cursor,
        }),
      ),
    refetchInterval: (query) => (query.state.data?.items.some(underWay) ? LOOK_AT_LIST_AGAIN_MS : false),
  });

/** What a run is to read; everything new, where nothing is said. */
export interface RunChoice {
  numbers?: string[];
  lanes?: string[];
  first_day?: string;
  last_day?: string;
}

/** What is left of a run that was stopped: lanes remember how far they were read, so only a last day is asked for anew. */
export function theRestOf(run: Pick<RunHead, "numbers" | "lanes" | "first_day" | "last_day">): RunChoice {
  if (run.numbers.length) return { numbers: run.numbers };
  const days = run.last_day ? { ...(run.first_day ? { first_day: run.first_day } : {}), last_day: run.last_day } : {};
  return { ...(run.lanes.length ? { lanes: run.lanes } : {}), ...days };
}

export const startRun = (workspace: string, bridge: string, chosen: RunChoice = {}) =>
  http.post<RunHead>(`/workspaces/${workspace}/bridges/${bridge}/runs`, chosen);

/** Try again what came to these outcomes in a run. */
export const runAgain = (workspace: string, run: number, outcomes: string[]) =>
  http.post<RunHead>(`/workspaces/${workspace}/runs/${run}/again`, { outcomes });

/** End a run that does not come to an end; what it has read is carried all the same. */
export const stopRun = (workspace: string, run: number) =>
  http.post<RunHead>(`/workspaces/${workspace}/runs/${run}/stop`);
