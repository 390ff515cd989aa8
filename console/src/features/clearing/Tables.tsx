import { Link } from "react-router";

import type { AccountProof, ClearingProof, Standing } from "../../api/types";
import { Amount, isZero } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { useWorkspace } from "../../parts/useWorkspace";
import { capitalised, counted, day } from "../../parts/words";

/** A table that is wider than its page: it is gone to, and moved by the arrows. */
function Wide({ id, title, children }: { id: string; title: string; children: React.ReactNode }) {
  return (
    <section aria-labelledby={id} className="sheet">
      <h2 id={id} className="mb-2 text-lg font-semibold">
        {title}
      </h2>
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex */}
      <div className="overflow-x-auto" role="group" aria-labelledby={id} tabIndex={0}>
        {children}
      </div>
    </section>
  );
}

/** Its document here, by its number; what there is none of is called as well as may be. */
function ToDocument({ crossing, number, otherwise }: { crossing: number | null; number: string; otherwise: string }) {
  const { slug } = useWorkspace();
  if (crossing === null) return <span className="text-faded">{otherwise || "–"}</span>;
  return (
    <Link className="link" to={`/${slug}/documents/${crossing}`}>
      {number}
    </Link>
  );
}

/** The items that are not the same on both sides. */
export function Differing({ result }: { result: AccountProof }) {
  return (
    <Wide id="differing" title="Not the same on both sides">
      <table className="w-full">
        <Heads names={["Why", "In the books", "From", "Day here", "Here>", "Day there", "There>", "Difference>"]} />
        <tbody>
          {result.differing.map((one, place) => (
            <tr key={`${one.reference}-${place}`} className="border-b border-line align-baseline *:px-3 *:py-1.5">
              <td>{capitalised(one.why)}</td>
              <td className="whitespace-nowrap">{one.number || "–"}</td>
              <td>
                <ToDocument crossing={one.crossing} number={one.source_number} otherwise={one.text || one.reference} />
              </td>
              <td className="whitespace-nowrap">{one.our_day ? day(one.our_day) : "–"}</td>
              <td className="amount">
                <Amount value={one.our_amount} />
              </td>
              <td className="whitespace-nowrap">{one.books_day ? day(one.books_day) : "–"}</td>
              <td className="amount">
                <Amount value={one.books_amount} />
              </td>
              <td className="amount text-madder">
                <Amount value={one.amount} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}

/** What stands on the account, item by item. */
export function Items({ standing }: { standing: Standing }) {
  return (
    <Wide id="items" title="Open items, the oldest first">
      <table className="w-full">
        <Heads names={["Since", "Of", "Transaction", "Why", "Amount>"]} />
        <tbody>
          {standing.items.map((one, place) => (
            <tr key={`${one.transaction}-${place}`} className="border-b border-line align-baseline *:px-3 *:py-1.5">
              <td className="whitespace-nowrap">{day(one.day)}</td>
              <td className="whitespace-nowrap">
                <ToDocument crossing={one.crossing} number={one.number || one.payout} otherwise={one.number} />
              </td>
              <td className="text-faded">{one.transaction || "–"}</td>
              <td>
                {capitalised(one.why)}
                {one.payout && one.payout !== one.number ? <span className="whitespace-nowrap text-faded"> ({one.payout})</span> : null}
              </td>
              <td className="amount">
                <Amount value={one.amount} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}

/** Money that the account or the provider has alone, or with another amount. */
export function OneSidedItems({ provider }: { provider: NonNullable<AccountProof["at_provider"]> }) {
  return (
    <Wide id="one-sided" title={`Not the same at ${provider.provider}`}>
      <table className="w-full">
        <Heads names={["Since", "Of", "Transaction", "Here>", "At the provider>"]} />
        <tbody>
          {provider.items.map((one) => (
            <tr key={one.transaction} className="border-b border-line align-baseline *:px-3 *:py-1.5">
              <td className="whitespace-nowrap">{day(one.day)}</td>
              <td className="whitespace-nowrap">
                <ToDocument crossing={one.crossing} number={one.number} otherwise={one.number || "–"} />
              </td>
              <td className="text-faded">{one.transaction}</td>
              <td className="amount">
                <Amount value={one.here} />
              </td>
              <td className="amount">
                <Amount value={one.there} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {provider.count > provider.items.length ? <p className="mt-2 text-sm text-faded">{counted(provider.count, "item")} in all; the oldest are listed.</p> : null}
    </Wide>
  );
}

/** Every day on which something moved, column by column. */
export function Days({ proof, result }: { proof: ClearingProof; result: AccountProof }) {
  if (result.days.length === 0) return null;
  return (
    <Wide id="days" title="Day by day">
      <table className="w-full">
        <Heads names={["Day", "Opening>", ...proof.columns.map((column) => `${capitalised(column)}>`), "Closing>", "In the books>"]} />
        <tbody>
          {result.days.map((one) => (
            <tr key={one.day} className="border-b border-line *:px-3 *:py-1">
              <th scope="row" className="text-[15px] font-normal whitespace-nowrap text-ink">
                {day(one.day)}
              </th>
              <td className="amount">
                <Amount value={one.opening} />
              </td>
              {proof.columns.map((column) => (
                <td key={column} className="amount">
                  {one.amounts[column] === undefined ? "" : <Amount value={one.amounts[column]} />}
                </td>
              ))}
              <td className="amount font-medium">
                <Amount value={one.closing} />
              </td>
              <td className={`amount ${isZero(one.difference) ? "" : "text-madder"}`}>
                <Amount value={one.books} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}
