import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { useSearchParams } from "react-router";

import { cancelClearingProof, clearingProofQuery, clearingProofsQuery, moneyAccountsQuery, proveAccount } from "../../api/clearing";
import { goesOn } from "../../api/rehearsals";
import type { ClearingProofHead, MoneyAccount } from "../../api/types";
import { AskPeriod } from "../../parts/AskPeriod";
import { Empty } from "../../parts/Empty";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { UnderWay } from "../../parts/UnderWay";
import { useAskedWork } from "../../parts/useAskedWork";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { WorkList } from "../../parts/WorkList";
import { counted, day } from "../../parts/words";
import { Proved } from "./Proved";

const keyOf = (one: MoneyAccount) => `${one.books}/${one.account}`;

/** Accounts of money between the buyer and the bank: what the books have on them, beside what was posted from here. */
export function Clearing() {
  useTitle("Clearing");
  const { slug } = useWorkspace();
  const [query, setQuery] = useSearchParams();
  const chooser = useId();
  const found = useQuery(moneyAccountsQuery(slug));
  const accounts = found.data ?? [];
  const account = accounts.find((one) => keyOf(one) === query.get("account")) ?? accounts.find((one) => one.purposes.includes("clearing")) ?? accounts[0];
  return (
    <>
      <PageHead title="Clearing">
        {accounts.length > 0 ? (
          <span className="flex min-w-0 flex-wrap items-baseline gap-2 max-md:w-full">
            <label htmlFor={chooser} className="text-faded">
              Account
            </label>
            <select
              id={chooser}
              className="field min-w-0 max-md:w-full"
              value={account ? keyOf(account) : ""}
              onChange={(event) => setQuery({ account: event.target.value })}
            >
              {accounts.map((one) => (
                <option key={keyOf(one)} value={keyOf(one)}>
                  {one.account} {one.name}, {one.books}
                </option>
              ))}
            </select>
          </span>
        ) : null}
      </PageHead>
      {found.isPending ? <Loading what="the accounts" lines={8} /> : null}
      {found.isError ? <ProblemNote error={found.error} again={() => void found.refetch()} /> : null}
      {found.data && !account ? (
        <Empty title="No account of money yet">
          The rules in force name them: where payments come in, and what payouts clear. Publish the rulebook of a bridge first.
        </Empty>
      ) : null}
      {account ? <OneAccount key={keyOf(account)} account={account} shown={Number(query.get("of")) || null} show={(of) => setQuery({ account: keyOf(account), of: String(of) })} /> : null}
    </>
  );
}

interface OneAccountProps {
  account: MoneyAccount;
  shown: number | null;
  show: (proof: number) => void;
}

function OneAccount({ account, shown, show }: OneAccountProps) {
  const { slug } = useWorkspace();
  const past = useQuery(clearingProofsQuery(slug, account.books, account.account));
  if (!account.told) {
    return (
      <Empty title="These books do not tell">
        {account.books} does not say what stands on an account, so there is nothing to hold against what was posted.
      </Empty>
    );
  }
  if (past.isPending) return <Loading what="the proofs" lines={8} />;
  if (past.isError) return <ProblemNote error={past.error} again={() => void past.refetch()} />;
  const chosen = shown ?? past.data.items[0]?.id ?? null;
  return (
    <div className="grid items-start gap-5 lg:grid-cols-[16rem_1fr]">
      <div className="space-y-5">
        <AskPeriod
          title="Prove"
          does="Prove this account"
          ask={(days) => proveAccount(slug, { books: account.books, account: account.account, ...days })}
          list={clearingProofsQuery(slug, account.books, account.account).queryKey}
          show={show}
        />
        <WorkList title="Proofs" works={past.data.items.map(listed)} shown={chosen} show={show} />
      </div>
      {chosen ? (
        <One key={chosen} account={account} number={chosen} />
      ) : (
        <Empty title="Not proved yet">
          {account.purposes.length ? `By the rules it is for ${account.purposes.join(", ")}. ` : ""}
          Its proof reads what the books have on it, and holds that against what was posted from here, item by item.
        </Empty>
      )}
    </div>
  );
}

const period = (one: Pick<ClearingProofHead, "first" | "last">) => `${day(one.first)} to ${day(one.last)}`;

const listed = (one: ClearingProofHead) => ({
  id: one.id,
  name: period(one),
  said: `${one.state === "ended" ? (one.proves ? "proves" : "differs") : one.state}, asked for on ${day(one.asked_at)}`,
});

function One({ account, number }: { account: MoneyAccount; number: number }) {
  const { slug } = useWorkspace();
  const { work: found, cancelling } = useAskedWork(
    clearingProofQuery(slug, number),
    clearingProofsQuery(slug, account.books, account.account).queryKey,
    () => cancelClearingProof(slug, number),
  );
  if (found.isPending) return <Loading what="the proof" lines={8} />;
  if (found.isError) return <ProblemNote error={found.error} again={() => void found.refetch()} />;
  const one = found.data;
  if (goesOn(one)) {
    return (
      <UnderWay
        said={`Reading the books: ${counted(one.done, "entry", "entries")} so far`}
        label="Entries read"
        total={one.state === "waiting" ? null : 0}
        done={one.done}
        onCancel={() => cancelling.mutate()}
        cancelling={cancelling.isPending}
        error={cancelling.error}
      />
    );
  }
  if (one.state !== "ended" || !one.result) {
    return <Empty title={one.state === "cancelled" ? "This one was cancelled" : "It could not be proved"}>{one.trouble || "Nothing changed."}</Empty>;
  }
  return <Proved account={account} proof={one} result={one.result} />;
}
