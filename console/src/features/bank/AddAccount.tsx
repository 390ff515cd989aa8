import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { addBankAccount, type NewBankAccount } from "../../api/bank";
import { connectionsQuery } from "../../api/connections";
import type { BankAccount } from "../../api/types";
import { Labelled } from "../../parts/Labelled";
import { ProblemNote } from "../../parts/Problem";
import { useWorkspace } from "../../parts/useWorkspace";

const NOTHING: NewBankAccount = { slug: "", name: "", books: "", ledger_account: "", number: "", currency: "" };

/** A short name of letters, digits and dashes, out of what people call something. */
const shortName = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 60);

/** A bank account to keep, and the account of the books that it is. */
export function AddAccount({ added }: { added: (made: BankAccount) => void }) {
  const { slug } = useWorkspace();
  const queries = useQueryClient();
  const [given, setGiven] = useState(NOTHING);
  const books = (useQuery(connectionsQuery(slug)).data?.items ?? []).filter((one) => one.side === "books");
  const set = (field: keyof NewBankAccount) => (value: string) => setGiven({ ...given, [field]: value });
  const adding = useMutation({
    mutationFn: () => addBankAccount(slug, { ...given, slug: shortName(given.name), currency: given.currency.toUpperCase() }),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: [slug, "bank"] });
      added(made);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    adding.mutate();
  };
  return (
    <form onSubmit={submit} aria-label="Add a bank account" className="sheet mb-6 space-y-3">
      <div className="grid gap-3 sm:grid-cols-2">
        <Labelled label="Name" value={given.name} required onChange={set("name")} hint="Such as Current account." />
        <Labelled label="Number" value={given.number} required onChange={set("number")} hint="As the bank writes it: an IBAN, or its own." />
        <Labelled
          label="Books"
          value={given.books}
          required
          onChange={set("books")}
          options={books.map((one) => [one.slug, one.name] as const)}
        />
        <Labelled label="Account of the books" value={given.ledger_account} required onChange={set("ledger_account")} hint="Such as 1200: the one that payouts arrive on." />
        <Labelled label="Currency" value={given.currency} required onChange={set("currency")} hint="Three letters, such as GBP." />
      </div>
      {adding.isError ? <ProblemNote error={adding.error} /> : null}
      <button type="submit" className="button" disabled={adding.isPending || !shortName(given.name)}>
        {adding.isPending ? "Adding…" : "Add the account"}
      </button>
    </form>
  );
}
