import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { Company, Entry, Erasure, Invitation, Invited, InvitedTo, Member, Page, TrailEntry } from "./types";

export const peopleQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "people"],
    queryFn: () => http.get<Page<Member>>(`/workspaces/${workspace}/people?limit=200`),
  });

export const companiesQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "companies"],
    queryFn: () => http.get<Page<Company>>(`/workspaces/${workspace}/companies?limit=200`),
  });

export const trailQuery = (workspace: string, cursor: string) =>
  queryOptions({
    queryKey: [workspace, "trail", cursor],
    queryFn: () => http.get<Page<TrailEntry>>(withQuery(`/workspaces/${workspace}/trail`, { cursor, limit: 25 })),
  });

export const giveRole = (workspace: string, given: { email: string; role: string }) =>
  http.post<Member>(`/workspaces/${workspace}/people`, given);

export const invitationsQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "people", "invitations"],
    queryFn: () => http.get<Page<Invitation>>(`/workspaces/${workspace}/people/invitations?limit=200`),
  });

export const invite = (workspace: string, given: { email: string; role: string; name: string }) =>
  http.post<Invited>(`/workspaces/${workspace}/people/invitations`, given);

export const withdrawInvitation = (workspace: string, id: number) =>
  http.delete(`/workspaces/${workspace}/people/invitations/${id}`);

/** What the link that one came by is to. */
export const invitationQuery = (secret: string) =>
  queryOptions({
    queryKey: ["invitation", secret],
    queryFn: () => http.post<InvitedTo>("/invitations", { secret }),
    retry: false,
  });

export const acceptInvitation = (given: { secret: string; password: string; name: string; code: string }) =>
  http.post<Entry>("/invitations/accept", given);

export const removePerson = (workspace: string, id: number) => http.delete(`/workspaces/${workspace}/people/${id}`);

export const eraseBuyer = (workspace: string, email: string) =>
  http.post<Erasure>(`/workspaces/${workspace}/erasures`, { email });

const LOOK_AGAIN_MS = 500;

/** How far an erasure is, asked for again until it has ended. */
export const erasureQuery = (workspace: string, id: number | undefined) =>
  queryOptions({
    queryKey: [workspace, "erasure", id],
    queryFn: () => http.get<Erasure>(`/workspaces/${workspace}/erasures/${id}`),
    enabled: id !== undefined,
    refetchInterval: (query) => (query.state.data?.ended_at ? false : LOOK_AGAIN_MS),
  });

export const addCompany = (workspace: string, given: Omit<Company, "two_close" | "report_language">) =>
  http.post<Company>(`/workspaces/${workspace}/companies`, given);

/** Change what of a company may change. */
export const changeCompany = (workspace: string, company: string, changed: Partial<Pick<Company, "name" | "two_close" | "report_language">>) =>
  http.patch<Company>(`/workspaces/${workspace}/companies/${company}`, changed);
