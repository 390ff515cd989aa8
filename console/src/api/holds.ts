import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { Answer } from "./links";
import type { components } from "./schema";
import type { Became, ContactChoice, Crossing, Freed, HoldGroup, LetGo } from "./types";

const LOOK_AGAIN_MS = 700;

export interface HoldFilters {
  bridge: string;
  cause: string;
  kind: string;
}

/** One group of what is held: by bridge, cause and, where one value is to blame, that value. */
export interface Chosen {
  bridge: string;
  cause: string;
  kind: string;
  value: string;
}

export const holdsQuery = (workspace: string, filters: HoldFilters) =>
  queryOptions({
    queryKey: [workspace, "holds", filters],
    queryFn: () => http.get<HoldGroup[]>(withQuery(`/workspaces/${workspace}/holds`, { ...filters })),
  });

/** What of a group would go under the text of rules; nothing is sent and nothing kept. */
export const previewHolds = (workspace: string, chosen: Chosen, text: string) =>
  http.post<Freed>(`/workspaces/${workspace}/holds/preview`, { ...chosen, text });

/** What of a group would go if an article were linked as answered; nothing is sent and nothing kept. */
export const previewLinked = (workspace: string, chosen: Chosen, answer: Answer) =>
  http.post<Freed>(`/workspaces/${workspace}/holds/preview`, { ...chosen, links: [answer] });

/** Who bought, and the contacts that may be meant. */
export const contactChoiceQuery = (workspace: string, crossing: number) =>
  queryOptions({
    queryKey: [workspace, "contact", crossing],
    queryFn: () => http.get<ContactChoice>(`/workspaces/${workspace}/crossings/${crossing}/contact`),
  });

/** Let the buyer be that contact, and let go what waits for it. */
export const chooseContact = (workspace: string, crossing: number, contact: string) =>
  http.put<LetGo>(`/workspaces/${workspace}/crossings/${crossing}/contact`, { contact });

export const releaseHolds = (workspace: string, chosen: Chosen) =>
  http.post<LetGo>(`/workspaces/${workspace}/holds/release`, chosen);

/** Where documents that were let go are now; asked again and again until none of them waits. */
export const becameQuery = (workspace: string, crossings: number[]) =>
  queryOptions({
    queryKey: [workspace, "became", crossings],
    queryFn: () => http.post<Became>(`/workspaces/${workspace}/holds/followed`, { crossings }),
    refetchInterval: (query) => (query.state.data && !query.state.data.states.waiting ? false : LOOK_AGAIN_MS),
  });

export type DecisionKind = components["schemas"]["DecisionRequestKindEnum"];

/** Decide for one document that is held, with a reason. */
export const decide = (workspace: string, crossing: number, kind: DecisionKind, note: string) =>
  http.put<Crossing>(`/workspaces/${workspace}/crossings/${crossing}/decision`, { kind, note });

export const takeDecisionBack = (workspace: string, crossing: number) =>
  http.delete<Crossing>(`/workspaces/${workspace}/crossings/${crossing}/decision`);
