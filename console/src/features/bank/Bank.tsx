import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { useSearchParams } from "react-router";

import { bankAccountsQuery } from "../../api/bank";
import type { BankAccount } from "../../api/types";
import { Empty } from "../../parts/Empty";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, day } from "../../parts/words";
import { AddAccount } from "./AddAccount";
import { Lines } from "./Lines";
import { ReadStatement } from "./ReadStatement";
import { StatementFiles } from "./StatementFiles";
import { Unmatched } from "./Unmatched";

/** The bank: what its statements tell, and which of their lines are which payouts. */
export function Bank() {
  useTitle("Bank");
  const { slug, may } = useWorkspace();
  const [query, setQuery] = useSearchParams();
  const chooser = useId();
  const [adding, setAdding] = useState(false);
  const found = useQuery(bankAccountsQuery(slug));
  const accounts = found.data?.items ?? [];
  const account = accounts.find((one) => one.slug === query.get("account")) ?? accounts[0];
  return (
    <>
      <PageHead title="Bank">
        {accounts.length > 1 ? (
          <span className="flex items-baseline gap-2">
            <label htmlFor={chooser} className="text-faded">
              Account
            </label>
            <select id={chooser} className="field" value={account?.slug ?? ""} onChange={(event) => setQuery({ account: event.target.value })}>
              {accounts.map((one) => (
                <option key={one.slug} value={one.slug}>
                  {one.name}
                </option>
              ))}
            </select>
          </span>
        ) : null}
        {may("edit") && accounts.length > 0 ? (
          <button type="button" className="button-quiet" aria-expanded={adding} onClick={() => setAdding(!adding)}>
            Add an account
          </button>
        ) : null}
      </PageHead>
      {found.isPending ? <Loading what="the bank accounts" lines={8} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && accounts.length === 0 ? (
        <Empty title="No bank account yet">
          With its statements, payouts are followed to the bank: what arrived, what has not, and what nobody knows.
        </Empty>
      ) : null}
      {may("edit") && found.data && (adding || accounts.length === 0) ? (
        <AddAccount
          added={(made) => {
            setAdding(false);
            setQuery({ account: made.slug });
          }}
        />
      ) : null}
      {account ? <OneAccount key={account.slug} account={account} /> : null}
    </>
  );
}

function OneAccount({ account }: { account: BankAccount }) {
  const { may } = useWorkspace();
  return (
    <div className="space-y-6">
      <p className="text-faded">
        {account.number}, account {account.ledger_account} of {account.books}.{" "}
        {account.last_day ? `Statements up to ${day(account.last_day)}; ${counted(account.open_lines, "line")} open.` : "No statement yet."}
      </p>
      {may("operate") ? <ReadStatement account={account} /> : null}
      <Unmatched account={account} />
      <Lines account={account} state="matched" />
      <Lines account={account} state="excluded" />
      <StatementFiles account={account} />
    </div>
  );
}
