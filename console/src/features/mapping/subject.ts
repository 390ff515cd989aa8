import { queryOptions, useQuery } from "@tanstack/react-query";

import { bridgeQuery } from "../../api/bridges";
import { editBase, editRules } from "../../api/rehearsals";
import type { BaseRulebook, Edited, EditedBase, Finding, Operation } from "../../api/types";
import { useSettled } from "../../parts/useSettled";
import { findingsOf } from "../bridges/refused";
import type { Ends } from "./offers";

/** Whose rules are written: those of a bridge, or what several bridges build on. */
export interface Subject {
  key: string[];
  /** What findings call the text. */
  file: string;
  /** The bridge whose orders and ends stand beside the rules; empty where there is none yet. */
  bridge: string;
  ends: Ends;
  edit: (text: string, operations: Operation[]) => Promise<Edited | EditedBase>;
}

const NO_ENDS: Ends = { source: "", books: "" };

function useEnds(workspace: string, bridge: string): Ends {
  const found = useQuery({ ...bridgeQuery(workspace, bridge), enabled: Boolean(bridge) });
  return found.data ? { source: found.data.source, books: found.data.books } : NO_ENDS;
}

/** The rules of a bridge. */
export function useBridgeSubject(workspace: string, bridge: string): Subject {
  const ends = useEnds(workspace, bridge);
  return { key: [workspace, "bridge", bridge], file: "rulebook.yaml", bridge, ends, edit: (text, operations) => editRules(workspace, bridge, text, operations) };
}

/** Base rules; names are offered from the ends of the first bridge that builds on them. */
export function useBaseSubject(workspace: string, name: string, base: BaseRulebook | null): Subject {
  const bridge = base?.bridges[0]?.bridge ?? "";
  const ends = useEnds(workspace, bridge);
  return { key: [workspace, "bases", name], file: name, bridge, ends, edit: (text, operations) => editBase(workspace, name, text, operations) };
}

/** What a text says as values, and what is wrong with it. */
export const saidQuery = (subject: Subject, text: string) =>
  queryOptions({
    queryKey: [...subject.key, "edited", text],
    queryFn: () => subject.edit(text, []),
    staleTime: Infinity,
    retry: false,
  });

/** Whether a finding is about this text, and not about one that it builds on. */
export const isOf = (finding: Finding, file: string) => (/^(\S+), line \d+:/.exec(finding.text)?.[1] ?? file) === file;

/** What is wrong with a text as it stands now; nothing is known while it is being looked at. */
export function useFoundNow(subject: Subject, text: string, enabled: boolean): Finding[] | undefined {
  const settled = useSettled(text);
  const said = useQuery({ ...saidQuery(subject, settled), enabled: enabled && Boolean(settled.trim()) });
  if (!enabled || settled !== text) return undefined;
  if (said.data) return said.data.findings;
  // What could not be looked at at all is no text without a fault.
  const found = findingsOf(said.error);
  return found.length ? found : undefined;
}
