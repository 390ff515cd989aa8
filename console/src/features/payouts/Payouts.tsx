import { useQueries, useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { bankAccountsQuery, unmatchedQuery } from "../../api/bank";
import { bridgesQuery } from "../../api/bridges";
import { crossingsQuery } from "../../api/crossings";
import type { Awaited } from "../../api/types";
import { Choice } from "../../parts/Choice";
import { Empty } from "../../parts/Empty";
import { PageHead } from "../../parts/Labelled";
import { Loading } from "../../parts/Loading";
import { ProblemNote } from "../../parts/Problem";
import { Turn } from "../../parts/Turn";
import { useFilters } from "../../parts/useFilters";
import { useTitle } from "../../parts/useTitle";
import { useWorkspace } from "../../parts/useWorkspace";
import { counted, STATES } from "../../parts/words";
import { PayoutTable } from "./PayoutTable";

/** What providers and marketplaces paid out: the journal of each, and whether the bank has it. */
export function Payouts() {
  useTitle("Payouts");
  const { slug } = useWorkspace();
  const { filters, cursor, narrowed, set } = useFilters("bridge", "state");
  const page = useQuery(crossingsQuery(slug, { ...filters, kind: "payouts", sort: "-placed", cursor }));
  const bridges = useQuery(bridgesQuery(slug)).data?.items ?? [];
  const bank = useAwaited(slug);
  return (
    <>
      <PageHead title="Payouts" />
      <div className="mb-4 flex flex-wrap gap-x-4 gap-y-2">
        <Choice
          name="Bridge"
          value={filters.bridge}
          options={bridges.map((one) => ({ value: one.slug, name: one.name }))}
          change={(bridge) => set({ bridge })}
        />
        <Choice name="State" value={filters.state} options={STATES} change={(state) => set({ state })} />
      </div>
      {bank.error ? <ProblemNote error={bank.error} again={bank.again} /> : <AtTheBank awaited={bank.awaited} />}
      {page.isPending ? <Loading what="the payouts" lines={10} /> : null}
      {page.isError ? <ProblemNote error={page.error} again={() => void page.refetch()} /> : null}
      {page.data && !page.data.items.length ? <None narrowed={narrowed} /> : null}
      {page.data?.items.length ? (
        <>
          <PayoutTable payouts={page.data.items} awaited={new Map(bank.awaited.map((one) => [one.crossing, one]))} />
          <Turn page={page.data} go={(cursor) => set({ cursor })} />
        </>
      ) : null}
    </>
  );
}

/** What the bank accounts still wait for, of all of them. */
function useAwaited(slug: string) {
  const accounts = useQuery(bankAccountsQuery(slug));
  const unmatched = useQueries({ queries: (accounts.data?.items ?? []).map((one) => unmatchedQuery(slug, one.slug)) });
  const asked = [accounts, ...unmatched];
  return {
    awaited: unmatched.flatMap((one) => (one.data?.awaited ?? []).filter((it) => it.kind === "payouts")),
    error: asked.find((one) => one.isError)?.error ?? null,
    again: () => asked.filter((one) => one.isError).forEach((one) => void one.refetch()),
  };
}

function AtTheBank({ awaited }: { awaited: Awaited[] }) {
  const { slug } = useWorkspace();
  if (!awaited.length) return null;
  const late = awaited.filter((one) => one.days_late > 0).length;
  return (
    <p className="mb-4">
      The bank does not have {counted(awaited.length, "payout")} yet
      {late ? (
        <>
          , of which <span className="text-madder">{late === 1 ? "one is" : `${late} are`} late</span>
        </>
      ) : null}
      .{" "}
      <Link className="link" to={`/${slug}/bank`}>
        See what its statements have
      </Link>
    </p>
  );
}

function None({ narrowed }: { narrowed: boolean }) {
  return narrowed ? (
    <Empty title="No payout fits these filters">Take one away.</Empty>
  ) : (
    <Empty title="No payouts yet">
      A bridge from a payment provider or a marketplace carries them: give its rulebook a group <code>payouts</code>, and switch the lane{" "}
      <em>payouts</em> on.
    </Empty>
  );
}
