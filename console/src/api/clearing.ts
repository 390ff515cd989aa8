import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import { goesOn, LOOK_AGAIN_MS } from "./rehearsals";
import type { ClearingProof, ClearingProofHead, MoneyAccount, Page } from "./types";

const at = (workspace: string) => `/workspaces/${workspace}/clearing`;

export const moneyAccountsQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "clearing"],
    queryFn: () => http.get<MoneyAccount[]>(`${at(workspace)}/accounts`),
  });

/** The proofs of one account, newest first. */
export const clearingProofsQuery = (workspace: string, books: string, account: string) =>
  queryOptions({
    queryKey: [workspace, "clearing", books, account],
    queryFn: () => http.get<Page<ClearingProofHead>>(withQuery(`${at(workspace)}/proofs`, { books, account, limit: 24 })),
  });

/** A proof, asked for again and again until it ends. */
export const clearingProofQuery = (workspace: string, number: number) =>
  queryOptions({
    queryKey: [workspace, "clearing", "proof", number],
    queryFn: () => http.get<ClearingProof>(`${at(workspace)}/proofs/${number}`),
    refetchInterval: (query) => (query.state.data && !goesOn(query.state.data) ? false : LOOK_AGAIN_MS),
  });

export interface AccountToProve {
  books: string;
  account: string;
  first?: string;
  last?: string;
}

export const proveAccount = (workspace: string, given: AccountToProve) => http.post<ClearingProof>(`${at(workspace)}/proofs`, given);

export const cancelClearingProof = async (workspace: string, number: number) => {
  await http.post<ClearingProofHead>(`${at(workspace)}/proofs/${number}/cancel`);
  return http.get<ClearingProof>(`${at(workspace)}/proofs/${number}`);
};
