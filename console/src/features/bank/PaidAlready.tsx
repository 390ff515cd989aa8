import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { ordersNumbered } from "../../api/bank";
import type { Awaited, BankAccount } from "../../api/types";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

/** An order that is paid, and for which more came in: by its number. */
export function PaidAlready({ account, add }: { account: BankAccount; add: (one: Awaited) => void }) {
  const { slug } = useWorkspace();
  const [number, setNumber] = useState("");
  const looking = useMutation({
    mutationFn: () => ordersNumbered(slug, number.trim()),
    onSuccess: ([found]) => {
      if (!found) return;
      const { id: crossing, kind, bridge, currency } = found;
      const nothing = { names: [], due_on: "", days_late: 0, amount: "0", on_account: account.ledger_account };
      add({ ...nothing, crossing, kind, bridge, number: found.number, currency });
      setNumber("");
    },
  });
  return (
    <form
      className="mt-3 flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        looking.mutate();
      }}
    >
      <label className="min-w-0 flex-1">
        <span className="mb-1 block text-sm text-faded">An order that is paid already, by its number</span>
        <input type="text" className="field w-full" value={number} maxLength={120} onChange={(event) => setNumber(event.target.value)} />
      </label>
      <button type="submit" className="button-quiet" disabled={!number.trim() || looking.isPending}>
        Add it
      </button>
      <p role="status" className="w-full text-sm text-madder">
        {looking.data?.length === 0 ? "No order that crossed has this number." : ""}
      </p>
      {looking.isError ? <ProblemNote error={looking.error} /> : null}
    </form>
  );
}
