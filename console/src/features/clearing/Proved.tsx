import type { AccountProof, ClearingProof, MoneyAccount, Standing } from "../../api/types";
import { Amount, isZero } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { capitalised, counted, day } from "../../parts/words";
import { negated, summed } from "../../parts/sums";
import { BalanceChart } from "./BalanceChart";
import { Days, Differing, Items, OneSidedItems } from "./Tables";

interface Props {
  account: MoneyAccount;
  proof: ClearingProof;
  result: AccountProof;
}

/** An account that was proved: whether it does, its columns, its days, and the items that are not the same. */
export function Proved({ account, proof, result }: Props) {
  return (
    <div className="min-w-0 space-y-5">
      <section aria-label="What it came to" className="sheet">
        <Verdict proof={proof} result={result} />
        <p className="mb-4 text-faded">
          Account {proof.account} {account.name} of {proof.books}, {day(proof.first)} to {day(proof.last)}, in {result.currency}.
        </p>
        <BalanceChart result={result} first={proof.first} last={proof.last} />
      </section>
      <div className="grid items-start gap-5 xl:grid-cols-2">
        <Sums proof={proof} result={result} />
        <div className="space-y-5">
          {result.standing ? <Stands standing={result.standing} currency={result.currency} /> : null}
          {result.at_provider ? <AtTheProvider provider={result.at_provider} /> : null}
          {result.at_bank ? <AtTheBank bank={result.at_bank} /> : null}
        </div>
      </div>
      {result.differing.length ? <Differing result={result} /> : null}
      {result.standing?.items.length ? <Items standing={result.standing} /> : null}
      {result.at_provider?.items.length ? <OneSidedItems provider={result.at_provider} /> : null}
      <Days proof={proof} result={result} />
    </div>
  );
}

function Verdict({ proof, result }: { proof: ClearingProof; result: AccountProof }) {
  const count = result.differences.reduce((sum, one) => sum + one.count, 0);
  if (proof.proves) {
    return (
      <p role="status" className="text-lg">
        <span className="font-semibold text-moss">It proves.</span> Both sides are the same, item by item.
      </p>
    );
  }
  return (
    <div role="status" className="mb-2">
      <p className="text-lg">
        <span className="font-semibold text-madder">It does not prove.</span>{" "}
        {count ? `${counted(count, "item")} ${count === 1 ? "is" : "are"} not the same on both sides.` : null}
      </p>
      <ul className="mt-1">
        {result.differences.map((one) => (
          <li key={one.why}>
            {capitalised(one.why)}: {counted(one.count, "item")}, <Amount value={one.amount} currency={result.currency} />
          </li>
        ))}
        {isZero(result.unexplained) ? null : (
          <li className="text-madder">
            Unexplained, for the books’ own entries do not lead to their balance: <Amount value={result.unexplained} currency={result.currency} />
          </li>
        )}
        {result.standing && !isZero(result.standing.not_accounted_for) ? (
          <li className="text-madder">
            Of what stands there, not accounted for: <Amount value={result.standing.not_accounted_for} currency={result.currency} />
          </li>
        ) : null}
      </ul>
    </div>
  );
}

/** Opening, columns and closing, one below the other. */
function Sums({ proof, result }: { proof: ClearingProof; result: AccountProof }) {
  const difference = summed([result.books, negated(result.closing)]);
  return (
    <section aria-labelledby="sums" className="sheet">
      <h2 id="sums" className="mb-2 text-lg font-semibold">
        From opening to closing
      </h2>
      <table className="w-full">
        <tbody>
          <Sum said="Opening, as the books have it" amount={result.opening} strong />
          {proof.columns.map((column) => (
            <Sum key={column} said={capitalised(column)} amount={result.amounts[column] ?? null} />
          ))}
          <Sum said="Closing" amount={result.closing} strong />
          <Sum said="Closing in the books" amount={result.books} />
          <Sum said="The books have more" amount={difference} wrong={!isZero(difference)} />
        </tbody>
      </table>
    </section>
  );
}

interface SumProps {
  said: string;
  amount: string | null;
  strong?: boolean;
  wrong?: boolean;
}

function Sum({ said, amount, strong = false, wrong = false }: SumProps) {
  return (
    <tr className={`border-b border-line *:py-1 ${strong ? "font-semibold" : ""} ${wrong ? "text-madder" : ""}`}>
      <th scope="row" className={`text-[15px] ${wrong ? "text-madder" : "text-ink"} ${strong ? "font-semibold" : "font-normal"}`}>
        {said}
      </th>
      <td className="amount">
        <Amount value={amount} />
      </td>
    </tr>
  );
}

/** What the provider has taken and not paid out, and what of that only one side knows. */
function AtTheProvider({ provider }: { provider: NonNullable<AccountProof["at_provider"]> }) {
  const differing = [
    ["Known here alone", provider.only_here],
    ["Known to the provider alone", provider.only_there],
    ["More here than there", provider.otherwise],
  ] as const;
  return (
    <section aria-labelledby="at-provider" className="sheet">
      <h2 id="at-provider" className="mb-2 text-lg font-semibold">
        At {provider.provider}, {day(provider.day)}
      </h2>
      {provider.trouble ? (
        <p className="text-madder">{provider.trouble}</p>
      ) : (
        <table className="w-full">
          <caption className="mb-1 text-left text-sm text-faded">In no payout made by then</caption>
          <tbody>
            {provider.columns.map((column) => (
              <Sum key={column} said={capitalised(column)} amount={provider.amounts[column] ?? null} />
            ))}
            <Sum said="It owes" amount={provider.balance} strong />
            <Sum said="Of that stands here" amount={provider.here} />
            {differing.map(([said, amount]) => (isZero(amount) ? null : <Sum key={said} said={said} amount={amount} wrong />))}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** Both balances at the end of the last day that a statement covers, and what the bank has more. */
function AtTheBank({ bank }: { bank: NonNullable<AccountProof["at_bank"]> }) {
  const parts = [
    ["Both began with another balance", bank.opening_difference],
    ["Lines that nobody knows", bank.open_lines],
    ["Lines that are no payouts", bank.excluded_lines],
  ] as const;
  return (
    <section aria-labelledby="at-bank" className="sheet">
      <h2 id="at-bank" className="mb-2 text-lg font-semibold">
        At the bank, {day(bank.day)}
      </h2>
      <table className="w-full">
        <tbody>
          <Sum said="Balance by its statement" amount={bank.balance} strong />
          <Sum said="In the books" amount={bank.books} strong />
          {parts.map(([said, amount]) => (isZero(amount) ? null : <Sum key={said} said={said} amount={amount} />))}
          {isZero(bank.not_accounted_for) ? null : <Sum said="Not accounted for" amount={bank.not_accounted_for} wrong />}
        </tbody>
      </table>
    </section>
  );
}

/** What the closing balance is made of, by age. */
function Stands({ standing, currency }: { standing: Standing; currency: string }) {
  const since = (place: number) => (place ? (standing.ages[place - 1]?.up_to ?? 0) + 1 : 0);
  return (
    <section aria-labelledby="stands" className="sheet">
      <h2 id="stands" className="mb-2 text-lg font-semibold">
        What stands there
      </h2>
      <table className="w-full">
        <Heads close names={["How old", "Items>", "Amount>"]} />
        <tbody>
          {standing.ages.map((one, place) => (
            <tr key={one.up_to ?? "older"} className="border-b border-line *:py-1">
              <th scope="row" className="text-[15px] font-normal text-ink">
                {one.up_to === null ? `more than ${since(place) - 1} days` : `${since(place)} to ${one.up_to} days`}
              </th>
              <td className="amount">{one.count.toLocaleString("en-GB")}</td>
              <td className="amount">
                <Amount value={one.amount} />
              </td>
            </tr>
          ))}
          <Rest said="Before the first day, and not from here" amount={standing.from_elsewhere} />
          <Rest said="Journals of other kinds" amount={standing.other_journals} />
          <Rest said="Not accounted for" amount={standing.not_accounted_for} wrong />
        </tbody>
      </table>
      <p className="mt-2 text-sm text-faded">
        {standing.count === 0 ? "No open items." : `${counted(standing.count, "item")} in ${currency}; the oldest are listed below.`}
      </p>
    </section>
  );
}

function Rest({ said, amount, wrong = false }: { said: string; amount: string; wrong?: boolean }) {
  if (isZero(amount)) return null;
  return (
    <tr className={`border-b border-line *:py-1 ${wrong ? "text-madder" : ""}`}>
      <th scope="row" colSpan={2} className={`text-[15px] font-normal ${wrong ? "text-madder" : "text-ink"}`}>
        {said}
      </th>
      <td className="amount">
        <Amount value={amount} />
      </td>
    </tr>
  );
}
