import { Fragment, useContext } from "react";

import type { Invoice, InvoiceLine, Journal, MoneyDocument, SpreadAnswer, SpreadDocument } from "../../api/types";
import { Amount, amountText, isZero } from "../../parts/Amount";
import { StateMark } from "../../parts/StateMark";
import { causeInWords, day, ruleInWords } from "../../parts/words";
import { AmendmentHead } from "./Changes";
import { Point, PointingContext } from "./Point";

/** The right page: the documents in the books, or what the shop was told of them. */
export function BooksPage({ spread }: { spread: SpreadAnswer }) {
  // A receipt goes the other way: from the books to the shop.
  const where = spread.kind === "receipts" ? "At the shop" : "In the books";
  return (
    <section aria-labelledby="books-title" className="p-6">
      <p className="text-xs text-faded">{where}</p>
      <h2 id="books-title" className="sr-only">
        Documents {where.toLowerCase()}
      </h2>
      {spread.documents.map((document, place) => {
        // Each change stands before the first of the documents that made it good.
        const amendment = spread.amendments.find((one) => one.documents[0] === document.external_reference);
        return (
          <Fragment key={document.id}>
            {amendment ? <AmendmentHead amendment={amendment} zone={spread.time_zone} /> : null}
            <AnyDocument document={document} at={`/documents/${place}`} />
          </Fragment>
        );
      })}
      {spread.documents.length ? null : <Nothing spread={spread} />}
    </section>
  );
}

function AnyDocument({ document, at }: { document: SpreadDocument; at: string }) {
  if (document.state === "adopted") return <AdoptedDocument document={document} />;
  if (document.role === "journal") return <Postings document={document} at={at} />;
  if (document.role.endsWith("payment") || document.role === "write-off") return <Money document={document} at={at} />;
  return <BooksDocument document={document} at={at} />;
}

/** Its number in the books, leading to its page there where it has one. */
function Numbered({ document, without }: { document: SpreadDocument; without: string }) {
  const number = document.books_number || <span className="text-faded">{without}</span>;
  if (!/^https?:/.test(document.link)) return number;
  return (
    <a className="link" href={document.link} target="_blank" rel="noreferrer" title="Open it in the books">
      {number}
    </a>
  );
}

function Nothing({ spread }: { spread: SpreadAnswer }) {
  if (spread.kind === "customers" && spread.state === "carried") return <AContact spread={spread} />;
  return (
    <div className="mt-2">
      <p className="font-serif text-xl font-semibold">Nothing yet</p>
      <p className="mt-2">
        <StateMark state={spread.state} /> {spread.cause ? `– ${causeInWords(spread.cause)}` : ""}
        {spread.left_out_by ? ` by ${ruleInWords(spread.left_out_by)}` : ""}
      </p>
      {spread.trouble ? <p className="mt-2 text-faded">{spread.trouble}</p> : null}
    </div>
  );
}

function AContact({ spread }: { spread: SpreadAnswer }) {
  return (
    <div className="mt-2">
      <p className="font-serif text-xl font-semibold">
        <Point at="/contact" label="A contact">
          A contact
        </Point>
      </p>
      <p className="mt-2">
        <StateMark state={spread.state} /> <span className="text-faded">– found by e-mail, or made where there was none</span>
      </p>
    </div>
  );
}

/** What somebody typed in, or what was posted before and not known here: the books are believed, and only its head is read. */
function AdoptedDocument({ document }: { document: SpreadDocument }) {
  return (
    <article className="mb-8">
      <h3 className="text-xl font-semibold">
        {named(document.role)} <Numbered document={document} without="(a draft)" />
      </h3>
      {document.record?.date ? <p className="text-faded">Dated {day(document.record.date)}</p> : null}
      <p className="my-4">
        <StateMark state={document.state} />
        <span className="text-faded"> – it was in the books already; nothing was posted for this order</span>
      </p>
      <dl className="grid grid-cols-[1fr_auto] gap-y-1">
        {(["net", "tax", "gross"] as const).map((name) => (
          <div key={name} className="contents">
            <dt className="capitalize">{name}</dt>
            <dd className="amount">
              <Amount value={document[name]} currency={document.currency} />
            </dd>
          </div>
        ))}
      </dl>
    </article>
  );
}

const named = (role: string) => role.charAt(0).toUpperCase() + role.slice(1);

/** Money that came in or went back, on the account it is kept on; or a balance that was given up. */
function Money({ document, at }: { document: SpreadDocument; at: string }) {
  const money = (document.record?.document ?? document.settled ?? document.planned) as unknown as MoneyDocument;
  return (
    <article className="mb-8">
      <h3 className="text-lg font-semibold">
        {named(document.role)} <Numbered document={document} without="(no number yet)" />
      </h3>
      <p className="flex flex-wrap items-baseline justify-between gap-3">
        <span className="text-faded">
          {day(money.date)}, {money.text || "money"} on account{" "}
          <Point at={`${at}/account`} label={`Account ${money.account}`}>
            {money.account}
          </Point>
        </span>
        <span className="amount font-semibold">
          <Point at={`${at}/amount`} label={`Amount ${amountText(money.amount)}`}>
            <Amount value={money.amount} />
          </Point>{" "}
          <span className="text-xs">{money.currency}</span>
        </span>
      </p>
      <MoneyInBase money={money} at={at} />
      <p>
        <StateMark state={document.state} />
        {document.proved_at ? <span className="text-faded"> – read back and compared</span> : null}
      </p>
    </article>
  );
}

/** What money came to in the company's own currency, and what was gained or lost between its document and it. */
function MoneyInBase({ money, at }: { money: MoneyDocument; at: string }) {
  const gained = money.exchange_difference;
  if (!money.rate && !gained) return null;
  return (
    <p className="text-sm">
      {money.rate ? (
        <>
          at{" "}
          <Point at={`${at}/rate`} label={`Rate ${trimmed(money.rate)}`}>
            {trimmed(money.rate)}
          </Point>
          : <Amount value={money.base ?? null} /> <span className="text-faded">in the company’s own currency</span>
        </>
      ) : null}
      {gained ? (
        <>
          {money.rate ? ", " : null}
          <Point at={`${at}/exchange_difference`} label={`Exchange difference ${amountText(gained.amount)}`}>
            <Amount value={gained.amount.replace("-", "")} />
          </Point>{" "}
          {gained.amount.startsWith("-") ? "lost" : "gained"} on account {gained.account}
        </>
      ) : null}
    </p>
  );
}

/** A journal: debits and credits that balance. */
function Postings({ document, at }: { document: SpreadDocument; at: string }) {
  const journal = (document.record?.document ?? document.planned) as unknown as Journal;
  return (
    <article className="mb-8">
      <h3 className="text-xl font-semibold">
        Journal <Numbered document={document} without="(no number yet)" />
      </h3>
      <p className="text-faded">
        {day(journal.date)}: {journal.text}
      </p>
      <p className="my-4">
        <StateMark state={document.state} />
        {document.proved_at ? <span className="text-faded"> – read back and compared</span> : null}
      </p>
      <table className="w-full">
        <thead className="border-b border-ink/60">
          <tr className="*:py-1">
            <th scope="col">Account</th>
            <th scope="col" className="text-right">
              Debit
            </th>
            <th scope="col" className="text-right">
              Credit
            </th>
          </tr>
        </thead>
        <tbody>
          {journal.lines.map((line, place) => {
            const credit = line.base.startsWith("-");
            const amount = (
              <Point at={`${at}/lines/${place}/base`} label={`${credit ? "Credit" : "Debit"} ${amountText(line.base)}`}>
                <Amount value={line.base.replace("-", "")} />
              </Point>
            );
            return (
              <tr key={place} className="border-b border-line *:py-1.5">
                <td>
                  <Point at={`${at}/lines/${place}/account`} label={`Account ${line.account}`}>
                    {line.account}
                  </Point>{" "}
                  <span className="text-xs text-faded">{line.text}</span>
                </td>
                <td className="amount">{credit ? null : amount}</td>
                <td className="amount">{credit ? amount : null}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </article>
  );
}

function BooksDocument({ document, at }: { document: SpreadDocument; at: string }) {
  const invoice: Invoice = document.record?.document ?? document.settled ?? document.planned;
  return (
    <article className="mb-8">
      <h3 className="text-xl font-semibold">
        {named(document.role)} <Numbered document={document} without="(no number yet)" />
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
        <thead className="border-b border-ink/60">
          <tr className="*:py-1">
            <th scope="col">Line</th>
            <th scope="col">Account</th>
            <th scope="col">Tax code</th>
            <th scope="col" className="text-right">
              Net
            </th>
            <th scope="col" className="text-right">
              Tax
            </th>
          </tr>
        </thead>
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

/** A unit price with two digits at least, and no idle zeros behind them. */
const trimmed = (price: string) => price.replace(/(\.\d{2}\d*?)0+$/, "$1");
