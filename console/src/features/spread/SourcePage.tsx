import type { Charge, Opened, Order, Receipt, Refund, SpreadAnswer } from "../../api/types";
import { Amount, amountText, isZero } from "../../parts/Amount";
import { Heads } from "../../parts/Heads";
import { day, ENTERED, moment } from "../../parts/words";
import { ArrivalPage } from "./ArrivalPage";
import { ChargePage } from "./ChargePage";
import { EnteredPage } from "./EnteredPage";
import { PayoutPage } from "./PayoutPage";
import { Point } from "./Point";
import { InvoicePage, RequestPaymentPage } from "./RequestPages";
import { SourceFrame } from "./SourceFrame";

/** The left page: the order as its buyer saw it, or the customer as the shop knows them. */
export function SourcePage({ spread }: { spread: SpreadAnswer }) {
  if (spread.kind === "customers") return <CustomerPage spread={spread} />;
  if (spread.kind === "opening balances") return <OpeningPage spread={spread} />;
  if (spread.kind === "refunds") return <RefundPage spread={spread} />;
  if (spread.kind === "receipts") return <ReceiptPage spread={spread} />;
  if (spread.kind === "arrivals") return <ArrivalPage spread={spread} />;
  if (spread.kind === "requests") return <InvoicePage spread={spread} />;
  if (spread.kind === "request_payments" || spread.kind === "bank_payments") return <RequestPaymentPage spread={spread} />;
  if (spread.kind === "charges") return <ChargePage spread={spread} />;
  if (ENTERED.includes(spread.kind)) return <EnteredPage spread={spread} />;
  if (spread.kind === "payouts") return <PayoutPage spread={spread} />;
  return spread.kind === "orders" ? <OrderPage spread={spread} /> : <AnyPage spread={spread} />;
}

/** A kind that has no page of its own: what it is called, when, and what it comes to. */
function AnyPage({ spread }: { spread: SpreadAnswer }) {
  const said = spread.order as unknown as { title?: string } | null;
  return (
    <SourceFrame where="At the origin" title={spread.number}>
      {spread.placed_at ? <p className="text-faded">{moment(spread.placed_at, spread.time_zone)}</p> : null}
      {said?.title ? <p className="mt-3">{said.title}</p> : null}
      {spread.gross === null ? null : (
        <p className="amount mt-3 text-left">
          <Amount value={spread.gross} currency={spread.currency} />
        </p>
      )}
    </SourceFrame>
  );
}

/** What somebody entered at the cut-over. */
function OpeningPage({ spread }: { spread: SpreadAnswer }) {
  const opening = spread.order as unknown as Opened | null;
  return (
    <SourceFrame where="Entered at the cut-over" title="Opening balances">
      <table className="mt-4 w-full">
        <Heads close names={["Of", `${opening?.currency ?? ""}>`]} />
        <tbody>
          {opening?.balances.map((one, place) => (
            <tr key={place} className="border-b border-line *:py-1.5">
              <td>{[one.of, one.account].filter(Boolean).join(" ")}</td>
              <td className="amount">
                <Point at={`/balances/${place}/amount`} label={`${one.of} ${amountText(one.amount)}`}>
                  <Amount value={one.amount} />
                </Point>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-3 text-faded">
        Against account{" "}
        <Point at="/against" label={`Against account ${opening?.against}`}>
          {opening?.against}
        </Point>
      </p>
    </SourceFrame>
  );
}

/** Money that somebody entered in the books, and the documents there that it is set against. */
function ReceiptPage({ spread }: { spread: SpreadAnswer }) {
  const receipt = spread.order as unknown as Receipt | null;
  return (
    <SourceFrame where="In the books" title={`Receipt ${spread.number}`}>
      {receipt ? (
        <>
          <p className="flex flex-wrap items-baseline justify-between gap-3">
            <span className="text-faded">
              {day(receipt.received_at)}, {receipt.text || "money"} on account {receipt.account}
            </span>
            <span className="amount font-semibold">
              <Amount value={receipt.amount} currency={receipt.currency} />
            </span>
          </p>
          {receipt.order_number ? <p className="text-faded">for order {receipt.order_number}</p> : null}
          <ul className="mt-3">
            {receipt.settles.map((part) => (
              <li key={part.external_reference} className="flex justify-between gap-3">
                <span className="text-faded">against {part.external_reference}</span> <Amount value={part.amount} />
              </li>
            ))}
          </ul>
        </>
      ) : (
        <p className="mt-4">This receipt could not be read, so there are no figures to show.</p>
      )}
    </SourceFrame>
  );
}

/** A refund reads like the order that it takes back from: lines, carriage, and what has no line. */
function RefundPage({ spread }: { spread: SpreadAnswer }) {
  const refund = spread.order as unknown as Refund | null;
  return (
    <SourceFrame where="At the shop" title={`Refund ${spread.number}`}>
      {refund ? (
        <>
          <p className="mb-4 text-faded">
            <Point at="/refunded_at" label={`Given back ${moment(refund.refunded_at, spread.time_zone)}`}>
              {moment(refund.refunded_at, spread.time_zone)}
            </Point>
            , of order{" "}
            <Point at="/order_id" label={`Order ${refund.order_number}`}>
              {refund.order_number}
            </Point>
            {refund.reason ? `: ${refund.reason}` : ""}
          </p>
          <Charges order={likeAnOrder(refund)} extrasAt="/goodwill" paid="Given back by" />
        </>
      ) : (
        <p className="mt-4">This refund could not be read, so there are no figures to show.</p>
      )}
    </SourceFrame>
  );
}

const likeAnOrder = (refund: Refund): Order =>
  ({
    ...refund,
    lines: refund.lines.map((line) => ({ ...line, id: line.line, tax_class: "" })),
    discounts: [],
    extras: refund.goodwill,
    cash_rounding: "0",
  }) as unknown as Order;

function CustomerPage({ spread }: { spread: SpreadAnswer }) {
  return (
    <SourceFrame where="At the shop" title={`Customer ${spread.number}`}>
      <BuyerLines buyer={spread.buyer} emailAt="/person" />
    </SourceFrame>
  );
}

function OrderPage({ spread }: { spread: SpreadAnswer }) {
  const { order, buyer } = spread;
  return (
    <SourceFrame
      where="At the shop"
      title={
        <>
          Order{" "}
          <Point at="/number" label={`Number ${spread.number}`}>
            {spread.number}
          </Point>
        </>
      }
    >
      {order ? (
        <>
          <p className="text-faded">
            <Point at="/placed_at" label={`Placed ${moment(order.placed_at, spread.time_zone)}`}>
              {moment(order.placed_at, spread.time_zone)}
            </Point>
            , {order.status}; prices {order.prices_include_tax ? "include" : "exclude"} tax
            {/^https?:/.test(order.link) ? (
              <>
                {" "}
                <a className="link whitespace-nowrap" href={order.link} target="_blank" rel="noreferrer">
                  Open it at the shop
                </a>
              </>
            ) : null}
          </p>
          <BuyerLines buyer={buyer} />
          <Charges order={order} />
        </>
      ) : (
        <p className="mt-4">This order could not be read, so there are no figures to show.</p>
      )}
    </SourceFrame>
  );
}

function BuyerLines({ buyer, emailAt = "/buyer/email" }: { buyer: SpreadAnswer["buyer"]; emailAt?: string }) {
  if (!buyer) return <p className="my-4 text-faded italic">The buyer’s details are not kept any more.</p>;
  const place = buyer.delivery ? [buyer.delivery.town, buyer.delivery.postcode, buyer.delivery.country].join(", ") : "";
  return (
    <address className="my-4 not-italic">
      {buyer.name || "No name given"}
      {buyer.account_id ? null : <span className="text-faded"> (guest)</span>}
      <br />
      <Point at={emailAt} label={buyer.email || "No e-mail"}>
        {buyer.email || "no e-mail"}
      </Point>
      <br />
      <span className="text-faded">{place}</span>
    </address>
  );
}

function Charges({ order, extrasAt = "/extras", paid = "Paid by" }: { order: Order; extrasAt?: string; paid?: string }) {
  return (
    <table className="w-full">
      <Heads close names={["Article", "Quantity>", `${order.currency}>`, order.prices_include_tax ? "of which tax>" : "and tax>"]} />
      <tbody>
        {order.lines.map((line, place) => (
          <ChargeRow key={line.id} charge={line} at={`/lines/${place}`} quantity={line.quantity} sku={line.sku} />
        ))}
        {order.discounts.map((discount, place) => (
          <tr key={place} className="border-b border-line *:py-1.5">
            <td colSpan={2}>{discount.title || "Discount"}</td>
            <td className="amount">
              <Point at={`/discounts/${place}/amount`} label={`Discount ${amountText(`-${discount.amount}`)}`}>
                <Amount value={`-${discount.amount}`} />
              </Point>
            </td>
            <td />
          </tr>
        ))}
        {order.shipping.map((part, place) => (
          <ChargeRow key={part.id} charge={part} at={`/shipping/${place}`} />
        ))}
        {(order.extras ?? []).map((part, place) => (
          <ChargeRow key={part.id} charge={part} at={`${extrasAt}/${place}`} />
        ))}
        {isZero(order.cash_rounding) ? null : (
          <tr className="border-b border-line *:py-1.5">
            <td colSpan={2}>Cash rounding</td>
            <td className="amount">
              <Amount value={order.cash_rounding} />
            </td>
            <td />
          </tr>
        )}
      </tbody>
      <tfoot>
        <tr className="font-semibold *:py-2">
          <th scope="row" colSpan={2} className="text-sm font-semibold text-ink">
            Total
          </th>
          <td className="amount border-t-3 border-double border-ink/60">
            <Point at="/total" label={`Total ${amountText(order.total)}`}>
              <Amount value={order.total} />
            </Point>
          </td>
          <td className="amount border-t-3 border-double border-ink/60">
            <Point at="/tax_total" label={`Tax ${amountText(order.tax_total)}`}>
              <Amount value={order.tax_total} />
            </Point>
          </td>
        </tr>
        {order.payments.map((payment, place) => (
          <tr key={payment.transaction} className="text-faded *:py-1">
            <td colSpan={2}>
              {wayOf(payment, paid)} {payment.method} <span className="text-xs">({payment.transaction})</span>
            </td>
            <td className="amount">
              <Point at={`/payments/${place}/amount`} label={`${wayOf(payment, paid)} ${payment.method} ${amountText(payment.amount)}`}>
                <Amount value={payment.amount} />
              </Point>
            </td>
            <td />
          </tr>
        ))}
      </tfoot>
    </table>
  );
}

/** How far money has come, by whose word: "Paid by", "To be paid by", "Not paid by", "The bank has a". */
function wayOf(payment: Order["payments"][number], paid: string) {
  const state = payment.state ?? "received";
  if (state === "promised" || state === "authorised") return "To be paid by";
  if (state === "failed" || state === "cancelled") return "Not paid by";
  const teller = payment.told_by ?? "sales side";
  return teller === "sales side" ? paid : `The ${teller} tells: ${paid.toLowerCase()}`;
}

interface ChargeRowProps {
  charge: Charge;
  at: string;
  quantity?: string;
  sku?: string;
}

function ChargeRow({ charge, at, quantity, sku }: ChargeRowProps) {
  const discount = charge.discount ?? "0";
  return (
    <tr className="border-b border-line align-top *:py-1.5">
      <td>
        {charge.title}
        <span className="block text-xs text-faded">
          {sku ? (
            <Point at={`${at}/sku`} label={`Article ${sku}`}>
              {sku}
            </Point>
          ) : null}
          {sku && charge.tax_class ? ", " : ""}
          {charge.tax_class ? (
            <>
              tax class{" "}
              <Point at={`${at}/tax_class`} label={`Tax class ${charge.tax_class}`}>
                {charge.tax_class}
              </Point>
            </>
          ) : null}
        </span>
      </td>
      <td className="amount">{quantity}</td>
      <td className="amount">
        <Point at={`${at}/amount`} label={`${charge.title}: ${amountText(charge.amount)}`}>
          <Amount value={charge.amount} />
        </Point>
        {isZero(discount) ? null : (
          <span className="block">
            <Point at={`${at}/discount`} label={`Its discount: ${amountText(`-${discount}`)}`}>
              <Amount value={`-${discount}`} />
            </Point>
          </span>
        )}
      </td>
      <td className="amount">
        {charge.taxes.map((tax, place) => (
          <span key={place} className="block">
            <Point at={`${at}/taxes/${place}/amount`} label={`Tax at ${tax.rate_percent} %: ${amountText(tax.amount)}`}>
              <Amount value={tax.amount} />
            </Point>
          </span>
        ))}
      </td>
    </tr>
  );
}
