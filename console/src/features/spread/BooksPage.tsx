import { Fragment } from "react";

import type { SpreadAnswer, SpreadDocument } from "../../api/types";
import { Amount } from "../../parts/Amount";
import { StateMark } from "../../parts/StateMark";
import { capitalised, causeInWords, day, ENTERED, ruleInWords } from "../../parts/words";
import { AmendmentHead } from "./Changes";
import { JournalDocument } from "./JournalDocument";
import { MoneyPaid } from "./MoneyPaid";
import { Numbered } from "./Numbered";
import { Point } from "./Point";
import { RequestDocument } from "./RequestDocument";
import { TradeDocument } from "./TradeDocument";

/** What goes the other way: from the books to a shop, or to a payment provider. */
const WHERE: Record<string, string> = { receipts: "At the shop", requests: "At the provider" };

/** The right page: the documents in the books, or what the shop was told of them. */
export function BooksPage({ spread }: { spread: SpreadAnswer }) {
  const where = WHERE[spread.kind] ?? "In the books";
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
  if (document.role === "payment request") return <RequestDocument document={document} at={at} />;
  if (document.role === "journal") return <JournalDocument document={document} at={at} />;
  if (document.role.endsWith("payment") || document.role === "write-off") return <MoneyPaid document={document} at={at} />;
  return <TradeDocument document={document} at={at} />;
}

function Nothing({ spread }: { spread: SpreadAnswer }) {
  if (spread.kind === "customers" && spread.state === "carried") return <AContact spread={spread} />;
  if (spread.kind === "charges" && spread.state === "carried") return <WithItsOrder spread={spread} />;
  if (ENTERED.includes(spread.kind)) return <StandsThere spread={spread} />;
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

/** What somebody entered in the books goes nowhere. */
function StandsThere({ spread }: { spread: SpreadAnswer }) {
  const ours = spread.kind === "not_posted_here";
  return (
    <div className="mt-2">
      <p className="font-serif text-xl font-semibold">It stands there already</p>
      <p className="mt-2">
        {ours ? "It bears our reference, and nothing here made it" : "Somebody entered it, or another program did"}: on the sheet it counts on the books’ side. Nothing is made of it.
      </p>
    </div>
  );
}

/** A charge becomes nothing by itself: the order or refund that it is money of was carried with it. */
function WithItsOrder({ spread }: { spread: SpreadAnswer }) {
  return (
    <div className="mt-2">
      <p className="font-serif text-xl font-semibold">Nothing by itself</p>
      <p className="mt-2">
        <StateMark state={spread.state} /> with {spread.following.map((one) => one.number).join(", ") || "its order"}, which has the receipt
      </p>
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
        {capitalised(document.role)} <Numbered document={document} without="(a draft)" />
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
