import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { BankAccount, BankLine, Crossing, Page, StatementFile, TakenFile, Unmatched } from "./types";

const at = (workspace: string) => `/workspaces/${workspace}/bank-accounts`;

/** All that is asked of an account stands under this key: whatever changes it asks for all of it anew. */
export const bankKey = (workspace: string, account: string) => [workspace, "bank", account] as const;

export const bankAccountsQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "bank"],
    queryFn: () => http.get<Page<BankAccount>>(withQuery(at(workspace), { limit: 200 })),
  });

export const bankLinesQuery = (workspace: string, account: string, state: string, cursor: string) =>
  queryOptions({
    queryKey: [...bankKey(workspace, account), "lines", state, cursor],
    queryFn: () => http.get<Page<BankLine>>(withQuery(`${at(workspace)}/${account}/lines`, { state, cursor, limit: 50 })),
  });

export const unmatchedQuery = (workspace: string, account: string) =>
  queryOptions({
    queryKey: [...bankKey(workspace, account), "unmatched"],
    queryFn: () => http.get<Unmatched>(`${at(workspace)}/${account}/unmatched`),
  });

export const statementFilesQuery = (workspace: string, account: string, cursor: string) =>
  queryOptions({
    queryKey: [...bankKey(workspace, account), "statements", cursor],
    queryFn: () => http.get<Page<StatementFile>>(withQuery(`${at(workspace)}/${account}/statements`, { cursor, limit: 10 })),
  });

export interface NewBankAccount {
  slug: string;
  name: string;
  books: string;
  ledger_account: string;
  number: string;
  currency: string;
}

export const addBankAccount = (workspace: string, given: NewBankAccount) => http.post<BankAccount>(at(workspace), given);

export function takeStatement(workspace: string, account: string, file: File) {
  const form = new FormData();
  form.append("file", file);
  return http.post<TakenFile>(`${at(workspace)}/${account}/statements`, form);
}

export const matchLines = (workspace: string, account: string, lines: number[], crossings: number[], note: string) =>
  http.post<BankLine[]>(`${at(workspace)}/${account}/matches`, { lines, crossings, note });

export const takeBackMatch = (workspace: string, account: string, line: number) =>
  http.delete(`${at(workspace)}/${account}/lines/${line}/match`);

export const markLines = (workspace: string, account: string, lines: number[], state: "open" | "excluded", note = "") =>
  http.patch<{ changed: number }>(`${at(workspace)}/${account}/lines`, { lines, state, note });

/** Orders that crossed under this very number. */
export async function ordersNumbered(workspace: string, number: string) {
  const found = await http.get<Page<Crossing>>(withQuery(`/workspaces/${workspace}/crossings`, { kind: "orders", state: "carried", search: number, limit: 50 }));
  return found.items.filter((one) => one.number === number);
}
