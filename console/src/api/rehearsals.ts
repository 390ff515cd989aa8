import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { BothPlans, ChangedPlan, Edited, EditedBase, MetValue, Operation, Page, Rehearsal, RehearsalHead } from "./types";

export const LOOK_AGAIN_MS = 600;

export const goesOn = (one: Pick<RehearsalHead, "state"> | undefined) =>
  one?.state === "waiting" || one?.state === "running";

export const rehearsalsQuery = (workspace: string, bridge: string) =>
  queryOptions({
    queryKey: [workspace, "bridge", bridge, "rehearsals"],
    queryFn: () => http.get<Page<RehearsalHead>>(`/workspaces/${workspace}/bridges/${bridge}/rehearsals`),
  });

/** A rehearsal, asked for again and again until it ends. */
export const rehearsalQuery = (workspace: string, number: number) =>
  queryOptions({
    queryKey: [workspace, "rehearsal", number],
    queryFn: () => http.get<Rehearsal>(`/workspaces/${workspace}/rehearsals/${number}`),
    refetchInterval: (query) => (query.state.data && !goesOn(query.state.data) ? false : LOOK_AGAIN_MS),
  });

export const coverageQuery = (workspace: string, number: number) =>
  queryOptions({
    queryKey: [workspace, "rehearsal", number, "coverage"],
    queryFn: () => http.get<MetValue[]>(`/workspaces/${workspace}/rehearsals/${number}/coverage`),
    staleTime: Infinity,
  });

export const coverageTable = (workspace: string, number: number) =>
  `/api/v1/workspaces/${workspace}/rehearsals/${number}/coverage/table`;

export const changedQuery = (workspace: string, number: number, cursor: string) =>
  queryOptions({
    queryKey: [workspace, "rehearsal", number, "changes", cursor],
    queryFn: () => http.get<Page<ChangedPlan>>(withQuery(`/workspaces/${workspace}/rehearsals/${number}/changes`, { cursor })),
    staleTime: Infinity,
  });

export const bothPlansQuery = (workspace: string, number: number, crossing: number) =>
  queryOptions({
    queryKey: [workspace, "rehearsal", number, "changes", "of", crossing],
    queryFn: () => http.get<BothPlans>(`/workspaces/${workspace}/rehearsals/${number}/changes/${crossing}`),
    staleTime: Infinity,
  });

export interface RehearsalGiven {
  rulebook?: number;
  first?: string;
  last?: string;
}

export const rehearse = (workspace: string, bridge: string, given: RehearsalGiven) =>
  http.post<Rehearsal>(`/workspaces/${workspace}/bridges/${bridge}/rehearsals`, given);

export const cancelRehearsal = (workspace: string, number: number) =>
  http.post<Rehearsal>(`/workspaces/${workspace}/rehearsals/${number}/cancel`);

/** The text of rules with single values changed; nothing is kept. */
export const editBase = (workspace: string, base: string, text: string, operations: Operation[]) =>
  http.post<EditedBase>(`/workspaces/${workspace}/base-rulebooks/${base}/edit`, { text, operations });
export const editRules = (workspace: string, bridge: string, text: string, operations: Operation[]) =>
  http.post<Edited>(`/workspaces/${workspace}/bridges/${bridge}/rulebooks/edit`, { text, operations });
