"""Both sides of one document, as a terminal shows them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from zoneinfo import ZoneInfo

import click

from inkwell_bridge.cli import output
from inkwell_bridge.client.models import Amendment, Document, Spread


def show_spread(spread: Spread) -> None:
    """What the source document says, what it became, and the reason of every amount."""
    name = f"{_KINDS.get(spread.kind, spread.kind.capitalize())} {spread.number}".strip()
    click.echo(f"{name}: {spread.state}" + (f" ({spread.cause})" if spread.cause else ""))
    for label, text in _head(spread):
        click.echo(f"  {label:<{LABELS}} {text}")
    # By what the document has, not by its kind: one that this page does not know still shows its total.
    said = spread.order or {}
    if "balances" in said:
        _balances(said)
    elif "lines" in said and "tax_total" in said:
        _order(said, spread.currency)
    elif "settles" in said:
        _receipt(said)
    elif "entries" in said:
        _payout(said)
    elif "parts" in said:
        _arrival(said)
    elif "settled" in said:
        _invoice(said)
    elif "request" in said:
        _request_payment(said)
    elif "entered_on" in said:
        _entered(said)
    elif "gives_back" in said:
        _charge(said)
    elif spread.gross is not None:
        click.echo(f"{said.get('title', '')} {spread.gross} {spread.currency}".strip())
    changed = {one.number: one for one in spread.amendments}
    for place, document in enumerate(spread.documents):
        # Each change stands before the first of the documents that made it good.
        amendment = changed.pop(document.amendment, None)
        if amendment is not None:
            _amendment(amendment, spread.time_zone)
        _document(document, place, spread.reasons)
    if spread.changes:
        click.echo("\nChanged at the sales side since it was posted:")
        output.table(spread.changes, CHANGES, empty="")
    for finding in spread.findings:
        click.echo(f"{finding.level}: {finding.text} {finding.hint}")


def _entered(said: dict[str, Any]) -> None:
    """What stands in the books on accounts of sales, and nothing here made."""
    columns: list[output.Column] = [
        ("Account", lambda row: row["account"]),
        ("Tax code", lambda row: row.get("tax_code") or "–"),
        (f"{said['currency']}>", lambda row: row["net"]),
        ("and tax>", lambda row: row.get("tax", "0")),
    ]
    output.table(said["lines"], columns, empty="")
    click.echo("It stands in the books already; nothing is made of it.")


def _amendment(amendment: Amendment, time_zone: str) -> None:
    """What changed at the sales side, or was put right in the books, before the documents that came of it."""
    if amendment.put_right:
        day = f", {amendment.at.astimezone(ZoneInfo(time_zone)):%Y-%m-%d %H:%M}" if amendment.at else ""
        click.echo(f"\nPut right in the books{day}:")
        return
    at = f", made good {amendment.at.astimezone(ZoneInfo(time_zone)):%Y-%m-%d %H:%M}" if amendment.at else ""
    click.echo(f"\nChange {amendment.number} at the sales side{at}:")
    output.table(amendment.changes, CHANGES, empty="What changed is not kept any more.")


CHANGES: list[output.Column] = [
    ("What", lambda row: row.what),
    ("Before", lambda row: row.before),
    ("After", lambda row: row.after),
]


LABELS = 12
_MOMENTS = {
    "orders": "Placed",
    "refunds": "Given back",
    "receipts": "Received",
    "payouts": "Paid out",
    "arrivals": "Booked",
    "requests": "Invoiced",
    "request_payments": "Paid",
    "bank_payments": "Booked",
    "charges": "Taken",
    "entered_by_hand": "Dated",
    "not_posted_here": "Dated",
}


def _head(spread: Spread) -> Iterator[tuple[str, str]]:
    """Who, when, over which bridge, in which run, by which rules, to whom; and what became of what belongs to it."""
    if spread.left_out_by:
        yield "Left out by", output.rule(spread.left_out_by)
    if spread.trouble:
        yield "Waits", spread.trouble
    if spread.buyer:
        yield "Buyer", ", ".join(filter(None, (spread.buyer["name"], spread.buyer["email"])))
    if spread.placed_at:
        yield (
            _MOMENTS.get(spread.kind, "Changed"),
            f"{spread.placed_at.astimezone(ZoneInfo(spread.time_zone)):%Y-%m-%d %H:%M} {spread.time_zone}",
        )
    yield "Bridge", spread.bridge
    runs = list(dict.fromkeys(str(event.run) for event in spread.history if event.run))
    if runs:
        yield "Run" if len(runs) == 1 else "Runs", ", ".join(runs)
    if spread.rulebook:
        links = f", links of change {spread.links_version}" if spread.links_version else ""
        yield "Rules", f"version {spread.rulebook}{links}"
    if spread.contact:
        yield "Contact", " ".join(filter(None, (spread.contact.code or spread.contact.id, spread.contact.name)))
    for one in spread.following:
        kind = _KINDS.get(one.kind, one.kind.capitalize())
        amount = [] if one.gross is None else [f"{one.gross} {one.currency}"]
        cause = f" ({one.cause})" if one.cause else ""
        yield kind, f"{', '.join([one.number, *amount, one.state])}{cause}"


_KINDS = {
    "orders": "Order",
    "customers": "Customer",
    "refunds": "Refund",
    "receipts": "Receipt",
    "payouts": "Payout",
    "arrivals": "Bank line",
    "requests": "Invoice",
    "request_payments": "Payment",
    "bank_payments": "Payment at the bank",
    "charges": "Charge",
    "entered_by_hand": "Entered by hand",
    "not_posted_here": "Not posted from here",
    "opening balances": "",
}


def _balances(opening: dict[str, Any]) -> None:
    columns: list[output.Column] = [
        ("Of", lambda row: row["of"]),
        ("Account", lambda row: row["account"]),
        (f"{opening['currency']}>", lambda row: row["amount"]),
    ]
    output.table(opening["balances"], columns, empty="")


def _receipt(receipt: dict[str, Any]) -> None:
    """Money in the books, and what it is set against there."""
    order = f", for order {receipt['order_number']}" if receipt["order_number"] else ""
    text = f" ({receipt['text']})" if receipt["text"] else ""
    click.echo(f"In the books: {receipt['amount']} {receipt['currency']} on account {receipt['account']}{text}{order}")
    for part in receipt["settles"]:
        click.echo(f"  {part['amount']} against {part['external_reference']}")


def _payout(payout: dict[str, Any]) -> None:
    """What the provider took and kept, entry by entry, and what it paid out."""
    arrives = f", at the bank on {payout['arrives_on']}" if payout["arrives_on"] else ""
    click.echo(f"Of {payout['provider'] or 'the provider'}{arrives}")
    rows: list[tuple[Any, ...]] = [
        (
            (one["called"] or one["kind"]).capitalize(),
            one["order_number"] or one["transaction"],
            *(one[name] for name in ("amount", "fee", "fee_tax", "net")),
        )
        for one in payout["entries"]
    ]
    rows.append(("Paid out", None, None, None, None, payout["total"]))
    columns: list[output.Column] = [
        ("Entry", lambda row: row[0]),
        ("Of", lambda row: row[1]),
        ("Amount>", lambda row: row[2]),
        ("Fee>", lambda row: _unless_zero(row[3])),
        ("Tax on it>", lambda row: _unless_zero(row[4])),
        (f"{payout['currency']}>", lambda row: row[5]),
    ]
    output.table(rows, columns, empty="")


def _arrival(arrival: dict[str, Any]) -> None:
    """What the bank booked, and which payouts it is."""
    click.echo(f"At the bank: {arrival['amount']} {arrival['currency']} on {arrival['booked_on']}, {arrival['text']}")
    columns: list[output.Column] = [
        ("Payout", lambda row: row["number"]),
        ("Stood on", lambda row: row["account"]),
        (f"{arrival['currency']}>", lambda row: row["amount"]),
    ]
    output.table(arrival["parts"], columns, empty="What was matched to it has been taken back.")


def _invoice(invoice: dict[str, Any]) -> None:
    """An invoice of the books, as they told of it last."""
    due = f", due on {invoice['due_on']}" if invoice["due_on"] else ""
    cancelled = ", cancelled" if invoice["state"] == "cancelled" else ""
    click.echo(f"In the books: {invoice['total']} {invoice['currency']}{due}, {invoice['open']} open{cancelled}")
    for one in invoice["fields"]:
        click.echo(f"  {one['name']}: {one['value']}")


def _request_payment(paid: dict[str, Any]) -> None:
    """What came in on a request."""
    where = "bank" if paid.get("arrived_on") else "provider"
    click.echo(f"At the {where}: {paid['amount']} {paid['currency']} by {paid['method'] or paid['tender']}, for "
               f"invoice {paid['invoice_number'] or paid['invoice_id']}")  # fmt: skip


def _charge(charge: dict[str, Any]) -> None:
    """What a provider took, or gave back, and how far that has come."""
    what = "gave back" if charge["gives_back"] else "took"
    of = f", for order {charge['order_number']}" if charge["order_number"] else ""
    by = charge["method"] or charge["tender"]
    click.echo(f"At the provider: {what} {charge['amount']} {charge['currency']} by {by}{of} ({charge['state']})")


def _way_of(money: dict[str, Any], paid: str) -> str:
    """How far money has come, and by whose word where that is not the sales side's."""
    state, teller = money.get("state", "received"), money.get("told_by", "sales side")
    if state in ("promised", "authorised"):
        return "To be paid by"
    if state in ("failed", "cancelled"):
        return "Not paid by"
    return paid if teller == "sales side" else f"The {teller} tells: {paid.lower()}"


def _unless_zero(amount: str | None) -> str | None:
    return amount if amount and amount.strip("-0.") else None


def _order(order: dict[str, Any], currency: str) -> None:
    rows: list[tuple[Any, ...]] = [
        (line["title"], line["quantity"], line["amount"], _tax(line)) for line in order["lines"]
    ]
    rows += [(discount["title"], None, f"-{discount['amount']}", None) for discount in order.get("discounts", [])]
    charged = [*order["shipping"], *order.get("extras", []), *order.get("goodwill", [])]
    rows += [(part["title"], None, part["amount"], _tax(part)) for part in charged]
    rows += [("Total", None, order["total"], order["tax_total"])]
    paid = "Given back by" if "refunded_at" in order else "Paid by"
    rows += [(f"{_way_of(money, paid)} {money['method']}", None, money["amount"], None)
             for money in order.get("payments", [])]  # fmt: skip
    columns: list[output.Column] = [
        ("At the shop", lambda row: row[0]),
        ("Quantity>", lambda row: row[1]),
        (f"{currency}>", lambda row: row[2]),
        ("of which tax>" if order["prices_include_tax"] else "and tax>", lambda row: row[3]),
    ]
    output.table(rows, columns, empty="")


def _tax(part: dict[str, Any]) -> str:
    return ", ".join(tax["amount"] for tax in part["taxes"])


def _document(document: Document, place: int, reasons: list[dict[str, Any]]) -> None:
    click.echo(
        f"\n{document.role.capitalize()} {document.books_number or '(no number yet)'}: {document.state}"
        + (f", rounding {document.difference}" if document.difference else "")
    )
    found = (document.record or {}).get("document") or document.settled or document.planned or {"lines": []}
    show_content(found, place, reasons, role=document.role)
    if document.net is not None:
        click.echo(f"Net {document.net}, tax {document.tax}, gross {document.gross} {document.currency}")
    if base := (document.record or {}).get("base"):
        rate = f" at {found['rate']}, {found.get('rate_from')}" if found.get("rate") else ", at a rate of the books"
        click.echo(f"In {base['currency']}{rate}: net {base['net']}, tax {base['tax']}, gross {base['gross']}")


def show_content(found: dict[str, Any], place: int, reasons: list[dict[str, Any]], *, role: str) -> None:
    """The lines or the amount of a document, with the reason of each; ``place`` is its place in its plan."""
    because: dict[str, str] = {}
    for reason in reasons:
        because[reason["target"]] = f"{because.get(reason['target'], '')} {reason['text']}".strip()
    if role == "payment request":
        _request(found, because, place)
        return
    if "amount" in found:
        why = " ".join(because.get(f"/documents/{place}/{name}", "") for name in ("amount", "account"))
        click.echo(
            f"{found['amount']} {found['currency']} on account {found['account']}, {found['date']}. {why}".rstrip()
        )
        for name in ("rate", "exchange_difference"):
            if text := because.get(f"/documents/{place}/{name}"):
                click.echo(text)
        return
    if role == "journal":
        _postings(found["lines"], {number: because.get(f"/documents/{place}/lines/{number}/base", "")
                                  for number in range(len(found["lines"]))})  # fmt: skip
        return
    rows = [
        (line, because.get(f"/documents/{place}/lines/{number}/net", "")) for number, line in enumerate(found["lines"])
    ]
    columns: list[output.Column] = [
        ("In the books", lambda row: " of ".join(filter(None, (row[0]["text"], row[0].get("item"))))),
        ("Quantity>", lambda row: output.quantity(str(row[0].get("quantity", 1)))),
        ("Account", lambda row: row[0]["account"]),
        ("Tax code", lambda row: row[0]["tax_code"]),
        ("Net>", lambda row: row[0]["net"]),
        ("Tax>", lambda row: row[0]["tax"]),
        ("Why", lambda row: row[1]),
    ]
    output.table(rows, columns, empty="")
    for name in ("currency", "rate"):
        if text := because.get(f"/documents/{place}/{name}"):
            click.echo(text)


def _request(found: dict[str, Any], because: dict[str, str], place: int) -> None:
    """What the buyer is asked for at the provider."""
    ends = f", until {found['ends_on']}" if found["ends_on"] else ""
    asked = "Withdrawn: nothing is asked for any more." if found["withdrawn"] else (
        f"{found['amount']} {found['currency']} for {found['text']}{ends}."
    )  # fmt: skip
    click.echo(asked)
    for name in ("amount", "withdrawn", "on_file", "ends_on"):
        if text := because.get(f"/documents/{place}/{name}"):
            click.echo(text)


def _postings(lines: list[dict[str, Any]], why: dict[int, str]) -> None:
    """The debits and credits of a journal."""
    columns: list[output.Column] = [
        ("Posting", lambda row: row[1]["text"]),
        ("Account", lambda row: row[1]["account"]),
        ("Debit>", lambda row: None if row[1]["base"].startswith("-") else row[1]["base"]),
        ("Credit>", lambda row: row[1]["base"].removeprefix("-") if row[1]["base"].startswith("-") else None),
        ("Why", lambda row: why[row[0]]),
    ]
    output.table(list(enumerate(lines)), columns, empty="")
