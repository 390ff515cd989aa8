import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useId, useState } from "react";

import { bridgesQuery } from "../../api/bridges";
import { requestsQuery } from "../../api/requests";
import { Choice } from "../../parts/Choice";
import { Empty } from "../../parts/Empty";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Turn } from "../../parts/Turn";
import { useFilters } from "../../parts/useFilters";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { AskForInvoice } from "./AskForInvoice";
import { RequestTable } from "./RequestTable";

const STANDINGS = ["open", "part paid", "paid", "cancelled", "waiting"] as const;
const FILTERS = ["standing", "bridge", "invoice"] as const;

/** Requests for payment: invoices of the books, the link that each buyer is given, and what was paid. */
export function Requests() {
  useTitle("Requests");
  const { slug, may } = useWorkspace();
  const [asking, setAsking] = useState(false);
  const { filters, cursor, narrowed, set, clear } = useFilters(...FILTERS);
  const found = useQuery(requestsQuery(slug, { ...filters, cursor }));
  return (
    <>
      <PageHead title="Requests for payment">
        {may("operate") ? (
          <button type="button" className="button-quiet" aria-expanded={asking} onClick={() => setAsking(!asking)}>
            Ask for an invoice
          </button>
        ) : null}
      </PageHead>
      {asking ? <AskForInvoice made={(invoice) => set({ invoice })} /> : null}
      <Narrowed key={filters.invoice} filters={filters} set={set} clear={narrowed ? clear : null} />
      {found.isPending ? <Loading what="the requests" lines={8} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && found.data.items.length === 0 ? <None narrowed={narrowed} /> : null}
      {found.data?.items.length ? (
        <>
          <RequestTable requests={found.data.items} />
          <Turn page={found.data} go={(cursor) => set({ cursor })} />
        </>
      ) : null}
    </>
  );
}

function None({ narrowed }: { narrowed: boolean }) {
  return narrowed ? (
    <Empty title="No request fits these filters">Take one away, or show all.</Empty>
  ) : (
    <Empty title="No requests yet">
      A bridge to a payment provider makes them: give its rulebook a group <code>requests</code>, and switch the lanes <em>requests</em> and{" "}
      <em>request payments</em> on.
    </Empty>
  );
}

interface NarrowedProps {
  filters: Record<(typeof FILTERS)[number], string>;
  set: (changed: Partial<Record<(typeof FILTERS)[number], string>>) => void;
  clear: (() => void) | null;
}

function Narrowed({ filters, set, clear }: NarrowedProps) {
  const { slug } = useWorkspace();
  const invoice = useId();
  const [typed, setTyped] = useState(filters.invoice);
  const bridges = useQuery(bridgesQuery(slug)).data?.items ?? [];
  const search = (event: FormEvent) => {
    event.preventDefault();
    set({ invoice: typed.trim() });
  };
  return (
    <form role="search" onSubmit={search} className="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-2">
      <Choice name="Standing" value={filters.standing} options={STANDINGS} change={(standing) => set({ standing })} />
      <Choice
        name="Bridge"
        value={filters.bridge}
        options={bridges.map((one) => ({ value: one.slug, name: one.name }))}
        change={(bridge) => set({ bridge })}
      />
      <span className="flex items-baseline gap-2">
        <label htmlFor={invoice} className="text-faded">
          Invoice
        </label>
        <input id={invoice} className="field w-36" value={typed} spellCheck={false} autoComplete="off" onChange={(event) => setTyped(event.target.value)} />
      </span>
      <button type="submit" className="button-quiet">
        Find
      </button>
      {clear ? (
        <button type="button" className="link" onClick={clear}>
          Show all
        </button>
      ) : null}
    </form>
  );
}
