import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { bridgesQuery } from "../../api/bridges";
import { makeRequest, requestsKey } from "../../api/requests";
import { Labelled } from "../../parts/Labelled";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** Asking for one invoice by its number, whatever the conditions of the rules say. */
export function AskForInvoice({ made }: { made: (invoice: string) => void }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const bridges = (useQuery(bridgesQuery(slug)).data?.items ?? []).filter((one) => one.lanes.some((lane) => lane.kind === "requests" && !lane.ends_cannot));
  const [chosen, setChosen] = useState("");
  const [invoice, setInvoice] = useState("");
  const bridge = chosen || (bridges.length === 1 ? (bridges[0]?.slug ?? "") : "");
  const making = useMutation({
    mutationFn: () => makeRequest(slug, { bridge, invoice: invoice.trim() }),
    onSuccess: async (request) => {
      await queries.invalidateQueries({ queryKey: requestsKey(slug) });
      made(request.invoice);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    making.mutate();
  };
  return (
    <form onSubmit={submit} aria-label="Ask for an invoice" className="sheet mb-6 space-y-3">
      <div className="grid gap-3 sm:grid-cols-2">
        <Labelled label="Bridge" value={bridge} required onChange={setChosen} options={bridges.map((one) => [one.slug, one.name] as const)} />
        <Labelled
          label="Number of the invoice"
          value={invoice}
          required
          onChange={setInvoice}
          hint="As the books have it. One that was cancelled here is taken up again, under the same link."
        />
      </div>
      {making.isError ? <ProblemNote error={making.error} /> : null}
      <button type="submit" className="button" disabled={making.isPending || !bridge || !invoice.trim()}>
        {making.isPending ? "Asking…" : "Ask for it"}
      </button>
    </form>
  );
}
