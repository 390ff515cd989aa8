import { queryOptions } from "@tanstack/react-query";

import { http } from "./http";
import { goesOn, LOOK_AGAIN_MS } from "./rehearsals";
import type { Page, Proposal, ProposalHead } from "./types";

export const proposalsQuery = (workspace: string, bridge: string) =>
  queryOptions({
    queryKey: [workspace, "bridge", bridge, "proposals"],
    queryFn: () => http.get<Page<ProposalHead>>(`/workspaces/${workspace}/bridges/${bridge}/proposals`),
  });

/** A proposal, asked for again and again until it ends. */
export const proposalQuery = (workspace: string, number: number) =>
  queryOptions({
    queryKey: [workspace, "proposal", number],
    queryFn: () => http.get<Proposal>(`/workspaces/${workspace}/proposals/${number}`),
    refetchInterval: (query) => (query.state.data && !goesOn(query.state.data) ? false : LOOK_AGAIN_MS),
  });

export interface ProposalGiven {
  first?: string;
  last?: string;
  least: number;
}

export const propose = (workspace: string, bridge: string, given: ProposalGiven) =>
  http.post<Proposal>(`/workspaces/${workspace}/bridges/${bridge}/proposals`, given);

export const cancelProposal = (workspace: string, number: number) =>
  http.post<Proposal>(`/workspaces/${workspace}/proposals/${number}/cancel`);

/** The examples of a proposal, as a file. */
export const examplesAddress = (workspace: string, number: number) => `/api/v1/workspaces/${workspace}/proposals/${number}/examples`;
