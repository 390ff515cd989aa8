import type { PeriodTotals, SideTotals, Today } from "../../api/types";
import { Amount, isZero } from "../../parts/Amount";
import { counted, day } from "../../parts/words";
import { Breakdown } from "./Breakdown";

const NAMES = [
  ["left_out", "left out by a rule"],
  ["held", "held for a person"],
  ["kept", "kept as posted, by a person"],
  ["accepted", "accepted as it is, by a person"],
  ["adopted", "adopted with another total"],
  ["waiting", "waiting"],
  ["withheld", "kept by a marketplace"],
  ["vouchers", "paid by vouchers taxed when sold"],
  ["cancelled", "cancelled after it was posted"],
  ["converted", "converted between currencies"],
  ["deposits", "tax of deposits not delivered"],
  ["cut_off", "dated in another period in the books"],
  ["tax_lines", "tax on lines of its own in the books"],
  ["rounding", "rounding of tax, by rule or by the books"],
] as const;

/** Both sides of the month, with every difference between them by its name. */
export function TieOut({ period }: { period: Today["tie_out"] }) {
  return (
    <section aria-labelledby="tie-out" className="sheet">
      <h2 id="tie-out" className="text-lg font-semibold">
        Do the figures tie
      </h2>
      <p className="mb-3 text-sm text-faded">
        {day(period.first)} to {day(period.last)}, by the company’s own dates
      </p>
      {period.totals.length ? null : <p className="text-faded">No order of this month was read yet.</p>}
      {period.totals.map((totals) => (
        <Currency key={totals.currency} totals={totals} />
      ))}
      {period.totals.length ? <Breakdown period={period} /> : null}
    </section>
  );
}

function Currency({ totals }: { totals: PeriodTotals }) {
  const left = totals.unexplained;
  const open = left.count !== 0 || ![left.net, left.tax, left.gross].every(isZero);
  return (
    <>
      <div className="overflow-x-auto">
      <table className="w-full">
        <thead>
          <tr className="border-b border-ink/60">
            <th scope="col" className="py-1">
              {totals.currency || "No currency"}
            </th>
            {["Documents", "Net", "Tax", "Gross"].map((name) => (
              <th key={name} scope="col" className="text-right">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <Row name="The shop" side={totals.source} strong />
          {NAMES.map(([key, name]) =>
            totals[key].count || !isZero(totals[key].net) || !isZero(totals[key].gross) ? <Row key={key} name={`less ${name}`} side={totals[key]} /> : null,
          )}
          <Row name="The books" side={totals.books} strong />
          <Row name="Unexplained" side={totals.unexplained} />
        </tbody>
      </table>
      </div>
      <p className={`mt-3 mb-6 font-medium last:mb-0 ${open ? "text-madder" : "text-moss"}`}>
        {open
          ? left.count
            ? `They do not tie: ${counted(left.count, "document")} cannot be explained.`
            : "They do not tie: an amount stands under another head than it was planned."
          : "They tie: every difference has a name."}
      </p>
    </>
  );
}

function Row({ name, side, strong = false }: { name: string; side: SideTotals; strong?: boolean }) {
  return (
    <tr className={`border-b border-line ${strong ? "font-medium" : "text-faded"}`}>
      <th scope="row" className={`py-1.5 text-sm ${strong ? "font-medium text-ink" : "pl-4 font-normal"}`}>
        {name}
      </th>
      <td className="amount pl-3">{side.count}</td>
      {[side.net, side.tax, side.gross].map((value, place) => (
        <td key={place} className="amount pl-3">
          <Amount value={value} />
        </td>
      ))}
    </tr>
  );
}
