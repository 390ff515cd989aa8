import { queryOptions } from "@tanstack/react-query";

import { http } from "./http";
import type { Session } from "./types";

export const sessionQuery = queryOptions({
  queryKey: ["session"],
  queryFn: () => http.get<Session>("/session"),
  staleTime: 60_000,
});

export const signIn = (given: { email: string; password: string; code: string }) => http.post<Session>("/session", given);

export const signOut = () => http.delete("/session");
