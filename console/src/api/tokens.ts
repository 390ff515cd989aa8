import { queryOptions } from "@tanstack/react-query";

import { http } from "./http";
import type { Page, Token } from "./types";

export const tokensQuery = queryOptions({
  queryKey: ["tokens"],
  queryFn: () => http.get<Page<Token>>("/tokens?limit=200"),
});

export interface NewToken {
  email: string;
  password: string;
  code: string;
  name: string;
  workspace: string;
  role: string;
  expires_at: string | null;
}

export const makeToken = (given: NewToken) => http.post<{ token: string }>("/tokens", given);

export const withdrawToken = (number: number) => http.delete(`/tokens/${number}`);
