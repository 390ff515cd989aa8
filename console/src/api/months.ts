import { infiniteQueryOptions, queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { ChangedPage, Month, OpenItem } from "./types";

const at = (workspace: string, company: string, month: string) => `/workspaces/${workspace}/months/${company}/${month}`;

/** What is open in a month, who accepted what, and whether it is closed. */
export const monthQuery = (workspace: string, company: string, month: string) =>
  queryOptions({
    queryKey: [workspace, "months", company, month],
    queryFn: () => http.get<Month>(at(workspace, company, month)),
  });

/** The documents that are otherwise in a closed month than when it was closed, page by page. */
export const changesQuery = (workspace: string, company: string, month: string) =>
  infiniteQueryOptions({
    queryKey: [workspace, "months", company, month, "changes"],
    queryFn: ({ pageParam }) => http.get<ChangedPage>(withQuery(`${at(workspace, company, month)}/changes`, { after: pageParam ? String(pageParam) : undefined })),
    initialPageParam: 0,
    getNextPageParam: (page: ChangedPage) => page.after ?? undefined,
  });

export const acceptItem = (workspace: string, company: string, month: string, item: OpenItem, note: string) =>
  http.post<Month>(`${at(workspace, company, month)}/acceptances`, { reason: item.reason, detail: item.detail, fingerprint: item.fingerprint, note });

export const takeAcceptanceBack = (workspace: string, company: string, month: string, number: number) =>
  http.delete<Month>(`${at(workspace, company, month)}/acceptances/${number}`);

/** Propose, take that back, close or open again: what is done with a month as a whole. */
export const proposeMonth = (workspace: string, company: string, month: string, note: string) =>
  http.post<Month>(`${at(workspace, company, month)}/proposal`, { note });

export const takeProposalBack = (workspace: string, company: string, month: string) => http.delete<Month>(`${at(workspace, company, month)}/proposal`);

export const closeMonth = (workspace: string, company: string, month: string, note: string) =>
  http.post<Month>(`${at(workspace, company, month)}/close`, { note });

export const reopenMonth = (workspace: string, company: string, month: string, note: string) =>
  http.post<Month>(`${at(workspace, company, month)}/reopen`, { note });

/** Where the report of a month is downloaded from. */
export const reportAddress = (workspace: string, company: string, month: string, form: string, language: string) =>
  withQuery(`/api/v1${at(workspace, company, month)}/report`, { form, language });
