import { Link } from "react-router";

import { withQuery } from "../../api/http";
import type { Payout, PayoutEntry, SpreadAnswer } from "../../api/types";
import { Amount, amountText, isZero } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { useWorkspace } from "../../parts/useWorkspace";
import { day } from "../../parts/words";
import { Point } from "./Point";
import { SourceFrame } from "./SourceFrame";

/** What a provider took and kept, entry by entry, and what it paid out; amounts as its account sees them. */
export function PayoutPage({ spread }: { spread: SpreadAnswer }) {
  const payout = spread.order as unknown as Payout | null;
  return (
    <SourceFrame where={`At ${payout?.provider || "the provider"}`} title={`Payout ${spread.number}`}>
      {payout ? (
        <>
          <p className="mb-4 text-faded">
            <Point at="/paid_at" label={`Paid out ${day(payout.paid_at)}`}>
              Paid out {day(payout.paid_at)}
            </Point>
            {payout.arrives_on ? `, at the bank ${day(payout.arrives_on)}` : ""}
            {payout.bank_reference ? ` as ${payout.bank_reference}` : ""}
          </p>
          <Entries payout={payout} />
        </>
      ) : (
        <p className="mt-4">This payout could not be read, so there are no figures to show.</p>
      )}
    </SourceFrame>
  );
}

function Entries({ payout }: { payout: Payout }) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full">
        <Heads close names={["Entry", "Amount>", "Fee, and tax on it>", `${payout.currency}>`]} />
        <tbody>
          {payout.entries.map((entry, place) => (
            <Entry key={entry.id} entry={entry} at={`/entries/${place}`} />
          ))}
        </tbody>
        <tfoot>
          <tr className="font-semibold *:py-2">
            <th scope="row" colSpan={3} className="text-sm font-semibold text-ink">
              {payout.total.startsWith("-") ? "Collected" : "Paid out"}
            </th>
            <td className="amount border-t-3 border-double border-ink/60">
              <Point at="/total" label={`Total ${amountText(payout.total)}`}>
                <Amount value={payout.total} />
              </Point>
            </td>
          </tr>
        </tfoot>
      </table>
    </div>
  );
}

function Entry({ entry, at }: { entry: PayoutEntry; at: string }) {
  const { slug } = useWorkspace();
  const name = entry.called || entry.kind;
  const columns = [
    [["amount", "amount"]],
    [
      ["fee", "fee"],
      ["fee_tax", "tax on the fee"],
    ],
  ] as const;
  return (
    <tr className="border-b border-line align-top *:py-1.5">
      <td>
        <span className="block first-letter:uppercase">{name}</span>
        <span className="block text-xs text-faded">
          {entry.order_number ? (
            // By its number, for it may have crossed over any bridge.
            <Link className="link mr-1" to={withQuery(`/${slug}/documents`, { search: entry.order_number })}>
              {entry.order_number}
            </Link>
          ) : null}
          {entry.transaction}
        </span>
      </td>
      {columns.map((parts) => (
        <td key={parts[0][0]} className="amount">
          {parts
            .filter(([field]) => !isZero(entry[field]))
            .map(([field, words]) => (
              // Two figures one above the other are told apart by a finger too.
              <span key={field} className="block leading-7">
                <Point at={`${at}/${field}`} label={`${name}, ${words} ${amountText(entry[field])}`}>
                  <Amount value={entry[field]} />
                </Point>
              </span>
            ))}
        </td>
      ))}
      <td className="amount">
        <Amount value={entry.net} />
      </td>
    </tr>
  );
}
