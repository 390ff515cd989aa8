import { useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useContext, useEffect, useRef, useState } from "react";

import type { Edited, Operation } from "../../api/types";
import type { Edits } from "./edits";
import type { Ends } from "./offers";
import { saidQuery, type Subject } from "./subject";

export interface Editing {
  /** What the rules say themselves, what the rulebooks say that they build on, and both together. */
  values: Record<string, unknown>;
  inherited: unknown;
  effective: Record<string, unknown> | null;
  /** Of base rules: what each bridge that builds on them says itself. */
  built: { bridge: string; values: unknown }[];
  findings: Edited["findings"];
  readOnly: boolean;
  /** Set a value, or what is made of the one that stands there by then. */
  set: (path: string, value: unknown) => void;
  remove: (path: string) => void;
  /** The bridge whose orders are looked at; of base rules one that builds on them, or none. */
  bridge: string;
  ends: Ends;
}

const Context = createContext<Editing | null>(null);
export const EditingProvider = Context.Provider;

/** The rules that are being edited, for the fields below. */
export function useRules(): Editing {
  const found = useContext(Context);
  if (!found) throw new Error("a field stands outside the rules that it edits");
  return found;
}

/** A text of rules as values, each change of which is made in the text itself, one after the other. */
export function useEditing(subject: Subject, text: string, onText: (text: string) => void, edits: Edits) {
  const queries = useQueryClient();
  const read = useQuery({ ...saidQuery(subject, text), placeholderData: (before) => before });
  const newest = useRef<{ text: string; values: Edited["values"] }>({ text, values: null });
  useEffect(() => {
    if (newest.current.text !== text) newest.current = { text, values: null };
  }, [text]);
  const [failure, setFailure] = useState<Error | null>(null);
  const [pending, setPending] = useState(0);
  // Each begins from the text that the one before it has left, and is made out of the values there.
  const apply = (made: (values: Edited["values"]) => Operation) => {
    setPending((count) => count + 1);
    edits
      .make(async () => {
        const { text: latest, values } = newest.current;
        const known = values ?? (await subject.edit(latest, [])).values;
        const edited = await subject.edit(latest, [made(known)]);
        newest.current = { text: edited.text, values: edited.values };
        // What it says was answered with it, and need not be asked for again.
        queries.setQueryData(saidQuery(subject, edited.text).queryKey, edited);
        setFailure(null);
        onText(edited.text);
      })
      .catch((error: unknown) => setFailure(error as Error))
      .finally(() => setPending((count) => count - 1));
  };
  return { read, failure, pending: pending > 0, apply };
}
