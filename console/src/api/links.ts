import { keepPreviousData, queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { ImportPreview, LinkChange, LinkCounts, Linked, Page, Question } from "./types";

export type LinkKind = "products" | "customers";

export interface Answer {
  key: string;
  targets: { id: string; quantity: string; share: string | null }[];
  none: boolean;
}

const at = (workspace: string, bridge: string, kind: LinkKind) => `/workspaces/${workspace}/bridges/${bridge}/links/${kind}`;

export const linkCountsQuery = (workspace: string, bridge: string, kind: LinkKind) =>
  queryOptions({
    queryKey: [workspace, "links", bridge, kind, "counts"],
    queryFn: () => http.get<LinkCounts>(`${at(workspace, bridge, kind)}/counts`),
  });

export const linksQuery = (workspace: string, bridge: string, kind: LinkKind, asked: Record<string, string>) =>
  queryOptions({
    queryKey: [workspace, "links", bridge, kind, "table", asked],
    queryFn: () => http.get<Page<Linked>>(withQuery(at(workspace, bridge, kind), { ...asked, limit: 25 })),
    placeholderData: keepPreviousData,
  });

export const questionsQuery = (workspace: string, bridge: string, kind: LinkKind, after: number) =>
  queryOptions({
    queryKey: [workspace, "links", bridge, kind, "questions", after],
    queryFn: () => http.get<Question[]>(withQuery(`${at(workspace, bridge, kind)}/questions`, { after, limit: 20 })),
    staleTime: 0,
    gcTime: 0,
  });

/** The questions about what is called so, each with what it may be. */
export const questionsAboutQuery = (workspace: string, bridge: string, kind: LinkKind, q: string) =>
  queryOptions({
    queryKey: [workspace, "links", bridge, kind, "about", q],
    queryFn: () => http.get<Question[]>(withQuery(`${at(workspace, bridge, kind)}/questions`, { q, limit: 5 })),
  });

export const answerLink = (workspace: string, bridge: string, kind: LinkKind, answer: Answer) =>
  http.post<LinkChange>(`${at(workspace, bridge, kind)}/answers`, { answers: [answer] });

export const createInBooks = (workspace: string, bridge: string, kind: LinkKind, key: string) =>
  http.post<LinkChange>(`${at(workspace, bridge, kind)}/create`, { key });

export const undoLink = (workspace: string, bridge: string, kind: LinkKind, change?: number) =>
  http.post<LinkChange>(`${at(workspace, bridge, kind)}/undo`, change ? { change } : {});

export const matchLinks = (workspace: string, bridge: string, kind: LinkKind) =>
  http.post<LinkCounts>(`${at(workspace, bridge, kind)}/match`);

export const tableAddress = (workspace: string, bridge: string, kind: LinkKind, form: "csv" | "xlsx") =>
  `/api/v1${at(workspace, bridge, kind)}/table?form=${form}`;

export const importTable = (workspace: string, bridge: string, kind: LinkKind, file: File, apply: boolean) => {
  const form = new FormData();
  form.append("file", file);
  form.append("apply", String(apply));
  return http.post<ImportPreview>(`${at(workspace, bridge, kind)}/import`, form);
};
