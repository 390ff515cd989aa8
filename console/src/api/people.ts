import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { Company, Member, Page, TrailEntry } from "./types";

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

export const giveRole = (workspace: string, given: { email: string; role: string; name?: string; password?: string }) =>
  http.post<Member>(`/workspaces/${workspace}/people`, given);

export const addCompany = (workspace: string, given: Company) =>
  http.post<Company>(`/workspaces/${workspace}/companies`, given);
