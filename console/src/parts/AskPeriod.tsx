import { type QueryKey, useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";

import { Labelled } from "./Labelled";
import { ProblemNote } from "./Problem";
import { useWorkspace } from "./useWorkspace";

/** The days that were chosen; without one, what the service takes by itself. */
export interface Period {
  first?: string;
  last?: string;
}

interface Props {
  title: string;
  /** What the button says. */
  does: string;
  from?: string;
  ask: (days: Period) => Promise<{ id: number }>;
  /** The list that the new one is to be seen in. */
  list: QueryKey;
  show: (id: number) => void;
  /** Fields before the days, and behind them. */
  before?: ReactNode;
  children?: ReactNode;
}

/** Asking for work about some days, which then goes on in the background. */
export function AskPeriod({ title, does, from = "From", ask, list, show, before, children }: Props) {
  const { may } = useWorkspace();
  const queries = useQueryClient();
  const [first, setFirst] = useState("");
  const [last, setLast] = useState("");
  const asking = useMutation({
    mutationFn: () => ask({ ...(first ? { first } : {}), ...(last ? { last } : {}) }),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: list });
      show(made.id);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    asking.mutate();
  };
  if (!may("operate")) return null;
  return (
    <section aria-labelledby="ask" className="sheet">
      <h2 id="ask" className="mb-2 text-lg font-semibold">
        {title}
      </h2>
      <form onSubmit={submit} className="space-y-3">
        {before}
        <Labelled label={from} type="date" value={first} onChange={setFirst} hint="Without days, the last whole month." />
        <Labelled label="To" type="date" value={last} onChange={setLast} hint="" />
        {children}
        {asking.isError ? <ProblemNote error={asking.error} /> : null}
        <button type="submit" className="button" disabled={asking.isPending}>
          {asking.isPending ? "Starting…" : does}
        </button>
      </form>
    </section>
  );
}
