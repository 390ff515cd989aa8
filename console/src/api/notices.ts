import { queryOptions } from "@tanstack/react-query";

import { http } from "./http";
import type { MadeNoticeRule, NoticeRule, Page, Tested, Troubles } from "./types";

const LOOK_AGAIN_MS = 30_000;
const at = (workspace: string) => `/workspaces/${workspace}/notice-rules`;

/** What needs somebody now; looked at every half-minute while the console is open. */
export const troublesQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "troubles"],
    queryFn: () => http.get<Troubles>(`/workspaces/${workspace}/troubles`),
    refetchInterval: LOOK_AGAIN_MS,
  });

export const readTroubles = (workspace: string) => http.post(`/workspaces/${workspace}/troubles/read`);

export const noticeRulesQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "notice rules"],
    queryFn: () => http.get<Page<NoticeRule>>(`${at(workspace)}?limit=200`),
  });

export type NoticeGiven = Partial<Omit<NoticeRule, "id" | "last_sent_at" | "last_failure">>;

export const addNoticeRule = (workspace: string, given: NoticeGiven) => http.post<MadeNoticeRule>(at(workspace), given);
export const changeNoticeRule = (workspace: string, number: number, given: NoticeGiven) =>
  http.patch<NoticeRule>(`${at(workspace)}/${number}`, given);
export const removeNoticeRule = (workspace: string, number: number) => http.delete(`${at(workspace)}/${number}`);
export const testNoticeRule = (workspace: string, number: number) => http.post<Tested>(`${at(workspace)}/${number}/test`);
