import { queryOptions } from "@tanstack/react-query";

import { http, withQuery } from "./http";
import type { BaseHead, BaseRulebook, Bridge, ConfigurationComparison, Opening, Page, RuleChange, Rulebook, RulebookHead, RunHead, Step, TimetableRequest, Tried, TriedTimetable, WholeTimetable } from "./types";

const at = (workspace: string, bridge: string) => `/workspaces/${workspace}/bridges/${bridge}`;

export const removeBridge = (workspace: string, slug: string, confirm: boolean) =>
  http.delete(withQuery(at(workspace, slug), { confirm }));

export const bridgesQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "bridges"],
    queryFn: () => http.get<Page<Bridge>>(`/workspaces/${workspace}/bridges?limit=200`),
  });

export const bridgeQuery = (workspace: string, slug: string) =>
  queryOptions({
    queryKey: [workspace, "bridge", slug],
    queryFn: () => http.get<Bridge>(at(workspace, slug)),
  });

export const setupQuery = (workspace: string, slug: string) =>
  queryOptions({
    queryKey: [workspace, "bridge", slug, "setup"],
    queryFn: () => http.get<Step[]>(`${at(workspace, slug)}/setup`),
  });

export interface NewBridge {
  slug: string;
  name: string;
  source: string;
  books: string;
  company: string;
}

export const layBridge = (workspace: string, given: NewBridge) =>
  http.post<Bridge>(`/workspaces/${workspace}/bridges`, given);

export const changeBridge = (workspace: string, slug: string, given: { starts_on?: string | null; name?: string }) =>
  http.patch<Bridge>(at(workspace, slug), given);

export const switchLane = (workspace: string, slug: string, kind: string, on: boolean) =>
  http.patch(`${at(workspace, slug)}/lanes/${kind}`, { on });

const timetableAt = (workspace: string, slug: string, lane: string) =>
  lane ? `${at(workspace, slug)}/lanes/${lane}/timetable` : `${at(workspace, slug)}/timetable`;

/** When a bridge runs by itself, or one lane of it. */
export const timetableQuery = (workspace: string, slug: string, lane: string) =>
  queryOptions({
    queryKey: [workspace, "bridge", slug, "timetable", lane],
    queryFn: () => http.get<WholeTimetable>(timetableAt(workspace, slug, lane)),
  });

/** What a timetable would be, in words, in fields and with its next times; nothing is kept. */
export const triedTimetableQuery = (workspace: string, slug: string, given: TimetableRequest) =>
  queryOptions({
    queryKey: [workspace, "bridge", slug, "timetable", "try", given],
    queryFn: () => http.post<TriedTimetable>(`${at(workspace, slug)}/timetable/try`, given),
  });

export const setTimetable = (workspace: string, slug: string, lane: string, given: TimetableRequest) =>
  http.put<WholeTimetable>(timetableAt(workspace, slug, lane), given);

export const removeTimetable = (workspace: string, slug: string, lane: string) =>
  http.delete(timetableAt(workspace, slug, lane));

export const pauseBridge = (workspace: string, slug: string, paused: boolean) =>
  paused ? http.put<Bridge>(`${at(workspace, slug)}/pause`) : http.delete<Bridge>(`${at(workspace, slug)}/pause`);

export const configurationAddress = (workspace: string, slug: string) => `/api/v1${at(workspace, slug)}/configuration`;

/** A configuration to be sent: a file, or the name of another bridge. */
function given(there: File | string): FormData {
  const form = new FormData();
  form.append(typeof there === "string" ? "bridge" : "file", there);
  return form;
}

export const compareConfiguration = (workspace: string, slug: string, there: File | string) =>
  http.post<ConfigurationComparison>(`${at(workspace, slug)}/configuration/compare`, given(there));

export const applyConfiguration = (
  workspace: string,
  slug: string,
  there: File | string,
  { leaveMissing, publish }: { leaveMissing: boolean; publish: boolean },
) => {
  const form = given(there);
  form.append("leave_missing", String(leaveMissing));
  form.append("publish", String(publish));
  return http.post<ConfigurationComparison>(`${at(workspace, slug)}/configuration/apply`, form);
};

export const rulesVersionsQuery = (workspace: string, slug: string) =>
  queryOptions({
    queryKey: [workspace, "bridge", slug, "rules"],
    queryFn: () => http.get<Page<RulebookHead>>(`${at(workspace, slug)}/rulebooks?limit=50`),
  });

export const rulesQuery = (workspace: string, slug: string, number: number) =>
  queryOptions({
    queryKey: [workspace, "bridge", slug, "rules", number],
    queryFn: () => http.get<Rulebook>(`${at(workspace, slug)}/rulebooks/${number}`),
  });

export const ruleChangesQuery = (workspace: string, slug: string, number: number) =>
  queryOptions({
    queryKey: [workspace, "bridge", slug, "rules", number, "changes"],
    queryFn: () => http.get<RuleChange[]>(`${at(workspace, slug)}/rulebooks/${number}/changes`),
  });

export const basesQuery = (workspace: string) =>
  queryOptions({
    queryKey: [workspace, "bases"],
    queryFn: () => http.get<Page<BaseHead>>(`/workspaces/${workspace}/base-rulebooks?limit=200`),
  });

export const baseQuery = (workspace: string, name: string) =>
  queryOptions({
    queryKey: [workspace, "bases", name],
    queryFn: () => http.get<BaseRulebook>(`/workspaces/${workspace}/base-rulebooks/${name}`),
  });

export const writeBase = (workspace: string, given: { name: string; text: string; redraft: boolean }) =>
  http.post<BaseRulebook>(`/workspaces/${workspace}/base-rulebooks`, given);

export const starterRules = (workspace: string, slug: string) =>
  http.get<{ text: string }>(`${at(workspace, slug)}/rulebooks/starter`);

/** With `after`, only where that is the newest version still. */
export const writeRules = (workspace: string, slug: string, text: string, after?: number) =>
  http.post<Rulebook>(`${at(workspace, slug)}/rulebooks`, after === undefined ? { text } : { text, after });

export const publishRules = (workspace: string, slug: string, number: number, note: string) =>
  http.post<Rulebook>(`${at(workspace, slug)}/rulebooks/${number}/publish`, { note });

export const takeUpAgain = (workspace: string, slug: string, number: number) =>
  http.post<Rulebook>(`${at(workspace, slug)}/rulebooks/${number}/take-up-again`);

export interface OpeningGiven {
  against: string;
  balances: { of: string; amount: string; account?: string }[];
}

export const enterOpening = (workspace: string, slug: string, given: OpeningGiven) =>
  http.put<Opening>(`${at(workspace, slug)}/opening`, given);

export const tryOrder = (workspace: string, slug: string, number: string) =>
  http.post<Tried>(`${at(workspace, slug)}/try`, { number });

/** By the text of rules that are not kept. */
export const tryOrderBy = (workspace: string, slug: string, number: string, text: string) =>
  http.post<Tried>(`${at(workspace, slug)}/try`, { number, text });

export const sendOrder = (workspace: string, slug: string, number: string) =>
  http.post<RunHead>(`${at(workspace, slug)}/runs`, { numbers: [number] });

/** Carry one order as drafts; nothing is posted. */
export const sendOnTrial = (workspace: string, slug: string, number: string) =>
  http.post<RunHead>(`${at(workspace, slug)}/trials`, { number });

export const adoptAll = (workspace: string, slug: string) => http.post<RunHead>(`${at(workspace, slug)}/adopt`);
