import type { InvoiceToPay, PaidByLink, SpreadAnswer } from "../../api/types";
import { Amount, amountText } from "../../parts/Amount";
import { day, moment } from "../../parts/words";
import { Point } from "./Point";
import { SourceFrame } from "./SourceFrame";

/** An invoice of the books, as they told of it last: what it comes to, what is open, and its fields. */
export function InvoicePage({ spread }: { spread: SpreadAnswer }) {
  const invoice = spread.order as unknown as InvoiceToPay | null;
  return (
    <SourceFrame where="In the books" title={`Invoice ${spread.number}`}>
      {invoice ? (
        <>
          <p className="mb-4 text-faded">
            {day(invoice.issued_on)}
            {invoice.due_on ? (
              <>
                ,{" "}
                <Point at="/due_on" label={`Due ${day(invoice.due_on)}`}>
                  due {day(invoice.due_on)}
                </Point>
              </>
            ) : null}
            {invoice.state === "cancelled" ? ", cancelled" : ""}, as read on {moment(spread.fetched_at, spread.time_zone)}
            {/^https?:/.test(invoice.link) ? (
              <>
                {" "}
                <a className="link whitespace-nowrap" href={invoice.link} target="_blank" rel="noreferrer">
                  Open it in the books
                </a>
              </>
            ) : null}
          </p>
          <dl className="grid grid-cols-[1fr_auto] gap-y-1">
            <dt>Total</dt>
            <dd className="amount">
              <Amount value={invoice.total} currency={invoice.currency} />
            </dd>
            {invoice.settled.map((part) => (
              <div key={part.external_reference} className="contents text-faded">
                <dt className="min-w-0 break-words">settled by {part.external_reference}</dt>
                <dd className="amount">
                  <Amount value={part.amount} />
                </dd>
              </div>
            ))}
            <dt className="font-semibold">Open</dt>
            <dd className="amount font-semibold">
              <Point at="/open" label={`Open ${amountText(invoice.open)}`}>
                <Amount value={invoice.open} />
              </Point>{" "}
              <span className="text-xs">{invoice.currency}</span>
            </dd>
          </dl>
          {invoice.fields.length ? (
            <dl className="mt-4 text-sm text-faded">
              {invoice.fields.map((one) => (
                <div key={one.name} className="flex gap-2">
                  <dt>{one.name}:</dt> <dd className="min-w-0 break-all">{one.value}</dd>
                </div>
              ))}
            </dl>
          ) : null}
        </>
      ) : (
        <p className="mt-4">This invoice could not be read, so there are no figures to show.</p>
      )}
    </SourceFrame>
  );
}

/** What came in on a request. */
export function RequestPaymentPage({ spread }: { spread: SpreadAnswer }) {
  const paid = spread.order as unknown as PaidByLink | null;
  return (
    <SourceFrame where={paid?.arrived_on ? "At the bank" : "At the provider"} title={`Payment ${spread.number}`}>
      {paid ? (
        <>
          <p className="text-faded">
            <Point at="/paid_at" label={`Paid ${moment(paid.paid_at, spread.time_zone)}`}>
              {moment(paid.paid_at, spread.time_zone)}
            </Point>
            , by {paid.method || paid.tender}
            {paid.arrived_on ? `, on account ${paid.arrived_on} of the books` : ""}
          </p>
          {paid.taken_back ? <p className="mt-2">It was matched to this invoice, and was something else: it is taken back.</p> : null}
          <p className="mt-3 flex flex-wrap items-baseline justify-between gap-3">
            <span>for invoice {paid.invoice_number || paid.invoice_id}</span>
            <span className="amount font-semibold">
              <Point at="/amount" label={`Amount ${amountText(paid.amount)}`}>
                <Amount value={paid.amount} />
              </Point>{" "}
              <span className="text-xs">{paid.currency}</span>
            </span>
          </p>
        </>
      ) : (
        <p className="mt-4">This payment could not be read, so there are no figures to show.</p>
      )}
    </SourceFrame>
  );
}
