import { queryOptions } from "@tanstack/react-query";

import { http } from "./http";
import type { CallAddress, IncomingCall, Page, Registration } from "./types";

const at = (workspace: string, connection: string) => `/workspaces/${workspace}/connections/${connection}/call-address`;

export const callAddressQuery = (workspace: string, connection: string) =>
  queryOptions({
    queryKey: [workspace, "connection", connection, "calls"],
    queryFn: () => http.get<CallAddress>(at(workspace, connection)),
  });

export const incomingCallsQuery = (workspace: string, connection: string) =>
  queryOptions({
    queryKey: [workspace, "connection", connection, "calls", "list"],
    queryFn: () => http.get<Page<IncomingCall>>(`/workspaces/${workspace}/connections/${connection}/incoming-calls?limit=10`),
  });

export const expectCalls = (workspace: string, connection: string, minutes: number) =>
  http.patch<CallAddress>(at(workspace, connection), { expected_within_minutes: minutes });
export const newCallSecret = (workspace: string, connection: string) =>
  http.post<{ secret: string }>(`${at(workspace, connection)}/secrets`, {});
export const endCallSecret = (workspace: string, connection: string, number: number) =>
  http.delete(`${at(workspace, connection)}/secrets/${number}`);
export const registerCalls = (workspace: string, connection: string) =>
  http.put<Registration>(`${at(workspace, connection)}/registration`);
export const endCalls = (workspace: string, connection: string) => http.delete(`${at(workspace, connection)}/registration`);
