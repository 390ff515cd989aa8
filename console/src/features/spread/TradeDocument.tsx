import { useContext } from "react";

import type { Invoice, InvoiceLine, SpreadDocument } from "../../api/types";
import { Amount, amountText, isZero } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { StateMark } from "../../parts/StateMark";
import { capitalised, day } from "../../parts/words";
import { Numbered } from "./Numbered";
import { Point, PointingContext } from "./Point";
import { trimmed } from "./written";

/** An order, an invoice, a credit note or a cash sale: its lines, what they come to, and why. */
export function TradeDocument({ document, at }: { document: SpreadDocument; at: string }) {
  const invoice: Invoice = document.record?.document ?? document.settled ?? document.planned;
  return (
    <article className="mb-8">
      <h3 className="text-xl font-semibold">
        {capitalised(document.role)} <Numbered document={document} without="(no number yet)" />
      </h3>
      <p className="text-faded">
        <Point at={`${at}/date`} label={`Dated ${day(invoice.date)}`}>
          {day(invoice.date)}
        </Point>
        , for order{" "}
        <Point at={`${at}/order_number`} label={`Order ${invoice.order_number}`}>
          {invoice.order_number}
        </Point>
      </p>
      <p className="my-4">
        <StateMark state={document.state} />
        {document.proved_at ? <span className="text-faded"> – read back and compared</span> : null}
        <br />
        <span className="text-faded">
          to contact{" "}
          <Point at="/contact" label={`Contact ${document.record?.contact_id ?? "not made yet"}`}>
            {document.record?.contact_id ?? "not made yet"}
          </Point>{" "}
          in {document.connection}
        </span>
      </p>
      <table className="w-full">
        <Heads close names={["Line", "Account", "Tax code", "Net>", "Tax>"]} />
        <tbody>
          {invoice.lines.map((line, place) => (
            <Line key={place} line={line} at={`${at}/lines/${place}`} />
          ))}
        </tbody>
        <tfoot className="font-semibold">
          <tr className="*:py-2">
            <th scope="row" colSpan={3} className="text-sm font-semibold text-ink">
              Net and tax
            </th>
            {[document.net, document.tax].map((value, place) => (
              <td key={place} className="amount border-t-3 border-double border-ink/60">
                <Amount value={value} />
              </td>
            ))}
          </tr>
          <tr className="*:py-1">
            <th scope="row" colSpan={3} className="text-sm font-semibold text-ink">
              Gross
            </th>
            <td colSpan={2} className="amount">
              <Amount value={document.gross} currency={document.currency} />
            </td>
          </tr>
        </tfoot>
      </table>
      <InBase document={document} rate={invoice.rate} at={at} />
      <Converted at={at} />
      {isZero(document.difference) ? null : (
        <p className="mt-3 text-sm text-ochre">
          The books computed another tax than the shop; <Amount value={document.difference} currency={document.currency} />{" "}
          was settled by rule.
        </p>
      )}
    </article>
  );
}

/** What a document in another currency is in the company's own, as the books have it. */
function InBase({ document, rate, at }: { document: SpreadDocument; rate: string | null | undefined; at: string }) {
  const base = document.record?.base;
  if (!base) return null;
  return (
    <p className="mt-3 text-sm">
      In the books’ own currency{" "}
      {rate ? (
        <>
          at{" "}
          <Point at={`${at}/rate`} label={`Rate ${trimmed(rate)}`}>
            {trimmed(rate)}
          </Point>
        </>
      ) : (
        "at a rate of theirs"
      )}
      : <Amount value={base.net} /> and <Amount value={base.tax} /> of tax, <Amount value={base.gross} currency={base.currency} />
    </p>
  );
}

/** At which rate a document was converted into the company's own currency, where it was. */
function Converted({ at }: { at: string }) {
  const said = useContext(PointingContext)?.reason(`${at}/currency`);
  if (!said) return null;
  return (
    <p className="mt-3 text-sm">
      <Point at={`${at}/currency`} label={said}>
        {said}
      </Point>
    </p>
  );
}

function Line({ line, at }: { line: InvoiceLine; at: string }) {
  return (
    <tr className="border-b border-line align-top *:py-1.5">
      <td>
        {line.text}
        <span className="block text-xs text-faded">
          {line.quantity} × {amountText(trimmed(line.unit_price))}
          {line.item ? (
            <>
              {" "}
              of{" "}
              <Point at={`${at}/item`} label={`Item ${line.item}`}>
                {line.item}
              </Point>
            </>
          ) : null}
        </span>
      </td>
      <td className="pr-2">
        <Point at={`${at}/account`} label={`Account ${line.account}`}>
          {line.account}
        </Point>
      </td>
      <td>
        <Point at={`${at}/tax_code`} label={`Tax code ${line.tax_code}`}>
          {line.tax_code}
        </Point>
      </td>
      <td className="amount">
        <Point at={`${at}/net`} label={`Net ${amountText(line.net)}`}>
          <Amount value={line.net} />
        </Point>
      </td>
      <td className="amount">
        <Point at={`${at}/tax`} label={`Tax ${amountText(line.tax)}`}>
          <Amount value={line.tax} />
        </Point>
      </td>
    </tr>
  );
}
