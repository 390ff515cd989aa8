import { keepPreviousData, queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { Connection, Kind, Loading, Name, NameKind, Page, SignInBegun } from "./types";

const LOOK_AGAIN_MS = 700;
const at = (workspace: string, connection: string) => `/workspaces/${workspace}/connections/${connection}`;

export const kindsQuery = queryOptions({
  queryKey: ["kinds"],
  queryFn: () => http.get<Kind[]>("/kinds"),
  staleTime: Infinity,
});

export const connectionsQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "connections"],
    queryFn: () => http.get<Page<Connection>>(`/workspaces/${workspace}/connections?limit=200`),
  });

export const connectionQuery = (workspace: string, slug: string) =>
  queryOptions({
    queryKey: [workspace, "connection", slug],
    queryFn: () => http.get<Connection>(at(workspace, slug)),
    // Workers check; asked for again until the check that was asked for is done.
    refetchInterval: (query) => (query.state.data?.checking ? LOOK_AGAIN_MS : false),
  });

export const loadingUnderWay = (loading: Loading) => loading.state === "waiting" || loading.state === "loading";

/** The newest goings-over, asked for again and again while one is under way. */
export const loadingsQuery = (workspace: string, slug: string) =>
  queryOptions({
    queryKey: [workspace, "connection", slug, "loadings"],
    queryFn: () => http.get<Page<Loading>>(`${at(workspace, slug)}/loadings?limit=20`),
    refetchInterval: (query) => (query.state.data?.items.some(loadingUnderWay) ? LOOK_AGAIN_MS : false),
  });

export const nameKindsQuery = (workspace: string, slug: string) =>
  queryOptions({
    queryKey: [workspace, "connection", slug, "names"],
    queryFn: () => http.get<NameKind[]>(`${at(workspace, slug)}/names`),
  });

export interface NamesAsked {
  kind: string;
  q: string;
  change: string;
  cursor: string;
  limit?: number;
}

export const namesQuery = (workspace: string, slug: string, { kind, limit = 25, ...asked }: NamesAsked) =>
  queryOptions({
    queryKey: [workspace, "connection", slug, "names", kind, asked, limit],
    queryFn: () => http.get<Page<Name>>(withQuery(`${at(workspace, slug)}/names/${kind}`, { ...asked, limit })),
    placeholderData: keepPreviousData,
  });

export interface NewConnection {
  slug: string;
  name: string;
  kind: string;
  address: string;
  company: string | null;
  credentials: Record<string, string>;
}

export const connect = (workspace: string, given: NewConnection) =>
  http.post<Connection>(`/workspaces/${workspace}/connections`, given);

export const changeConnection = (workspace: string, slug: string, given: Partial<NewConnection>) =>
  http.patch<Connection>(at(workspace, slug), given);

export const checkConnection = (workspace: string, slug: string) => http.post<Connection>(`${at(workspace, slug)}/check`);

export const beginSignIn = (workspace: string, slug: string, return_to: string) =>
  http.post<SignInBegun>(`${at(workspace, slug)}/sign-in`, { return_to });

export interface CameBack {
  state: string;
  code: string;
  error: string;
}

/** Which connection a sign-in is for; its state begins with workspace and connection. */
export function connectionOf(state: string): { workspace: string; slug: string } | null {
  const [workspace, slug, secret] = state.split("/");
  return workspace && slug && secret ? { workspace, slug } : null;
}

export const finishSignIn = (workspace: string, slug: string, given: CameBack) =>
  http.post<Connection>(`${at(workspace, slug)}/sign-in/finish`, given);

export const loadNames = (workspace: string, slug: string) => http.post<Loading[]>(`${at(workspace, slug)}/loadings`, {});

export const switchCompany = (workspace: string, slug: string, company_name: string, confirm: boolean) =>
  http.post<Connection>(`${at(workspace, slug)}/switch`, { company_name, confirm });

export const switchBack = (workspace: string, slug: string) => http.post<Connection>(`${at(workspace, slug)}/switch-back`);

export const removeConnection = (workspace: string, slug: string, confirm: boolean) =>
  http.delete(withQuery(at(workspace, slug), { confirm }));

/** Let nothing be read from it or sent to it until it goes on. */
export const pauseConnection = (workspace: string, slug: string, paused: boolean) =>
  paused ? http.put<Connection>(`${at(workspace, slug)}/pause`) : http.delete<Connection>(`${at(workspace, slug)}/pause`);
