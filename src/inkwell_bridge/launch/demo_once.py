"""The whole example without anyone there: bridge by bridge, what was read and what became of it, on both sides."""

from __future__ import annotations

import html
import re
import time
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable
from datetime import date
from decimal import Decimal
from typing import Any

import httpx

from inkwell_bridge.client import Client, WorkspaceCalls
from inkwell_bridge.client.models import AtProvider, Run, SheetRow
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch import demo_client, demo_peers
from inkwell_bridge.launch.stack import Stack

TIMEOUT_SECONDS = 120.0
EMAIL = "owner@inkwell.example"
Json = dict[str, Any]
# The accounts that are proved: of clearing, of money on its way, and of the bank.
CLEARING = (("books", "1250"), ("books", "1210"), ("books", "1200"), ("irish_books", "116"), ("irish_books", "117"))
OCTOBER = {"first": date(2026, 10, 1), "last": date(2026, 10, 31)}


def whole_example(stack: Stack, say: Callable[[str], None]) -> Json:
    """Set the client up, run each bridge twice, and gather every figure that the demo data says something about."""
    slug = facts()["workspace"]["slug"]
    demo_client.fill_standins(stack.standin, whole_month=True)
    token = demo_client.open_workspace(stack, "a-password-for-one-run", workspace=slug, email=EMAIL)
    calls = Client(stack.address, token=token).workspace(slug)
    demo_client.set_up(stack, calls)
    demo_client.set_up_others(stack, calls)
    say("Carrying October over five bridges at once.")
    first = _run_all(calls)
    say("Running once more: nothing may be made twice.")
    second = _run_all(calls)
    figures = _of_bridges(stack, calls, first, second)
    say("Carrying what Weirgate paid out.")
    paid_out = _payouts(stack, calls)
    say("Reading the bank's statement.")
    paid_out["bank"] = _at_the_bank(stack, calls)
    say("Proving the accounts between the buyers and the bank.")
    paid_out["clearing"] = {code: _proved(calls, facts()[books]["slug"], code) for books, code in CLEARING}
    say("Asking for invoices that the office typed in, and paying them.")
    paid_out["requests"] = _by_link(stack, calls)
    say("Customers change their minds about orders of October.")
    return {**figures, "payouts": paid_out, "afterwards": _afterwards(stack, calls)}


def _of_bridges(stack: Stack, calls: WorkspaceCalls, first: dict[str, Run], second: dict[str, Run]) -> Json:
    asked = {"bridge": _erp, "irish_bridge": _ledger, "contacts_bridge": _contact_list, "fair_eur_bridge": _ledger,
             "fair_usd_bridge": _erp}  # fmt: skip
    return {
        facts()[bridge]["slug"]: _figures(calls, first[bridge], second[bridge])
        | {"in_the_books": ask(stack, facts()[demo_client.BRIDGES[bridge][0]]["slug"])}
        for bridge, ask in asked.items()
    }


def _payouts(stack: Stack, calls: WorkspaceCalls) -> Json:
    """Carry the payouts twice, and add up what the ERP has of them by account, asked past the service."""
    demo_client.set_up_payouts(stack, calls)
    slug, source = facts()["payouts_bridge"]["slug"], facts()["weirgate"]["slug"]
    first, second = (_ended(calls, calls.bridge(slug).run()) for _ in range(2))
    posted = [one for one in _of(_asked(stack, "erp").get("journal", []), source) if one["state"] == "posted"]
    moved = _by_account(posted)
    return {
        **{name: getattr(first.counts, name) for name in ("read", "carried", "held")},
        "journals": len(posted),
        "by_account": {account: str(amount) for account, amount in sorted(moved.items())},
        "second_run": {"carried": second.counts.carried, "held": second.counts.held},
    }


def _at_the_bank(stack: Stack, calls: WorkspaceCalls) -> Json:
    """Read the bank's statement twice, match what it gives no name, and tell what stands on the bank by then."""
    account = demo_client.add_bank_account(calls)
    taken, again = (demo_client.read_statement(account) for _ in range(2))
    found = account.unmatched()
    names = {one.crossing: one.number for one in found.awaited}
    for one in found.proposals:
        account.match(one.lines, one.crossings, "The only one of its amount")
    _until_idle(calls)
    moved = _by_account(_asked(stack, "erp").get("journal", []))
    return {
        "lines": taken.lines,
        "matched": taken.matched,
        "proposed": [names[key] for one in found.proposals for key in one.crossings],
        "open": [str(one.amount) for one in account.lines(state="open")],
        "on_its_way": {one.number: str(one.amount) for one in account.unmatched().awaited if one.kind == "payouts"},
        "by_account": {code: str(moved[code]) for code in ("1200", "1210")},
        "again": again.new_lines,
    }


def _proved(calls: WorkspaceCalls, books: str, account: str) -> Json:
    """An account of October by column, and what differs or stands there without a reason."""
    asked = calls.clearing.prove(books=books, account=account, **OCTOBER)
    deadline = time.monotonic() + TIMEOUT_SECONDS
    while (found := calls.clearing.proof(asked.id)).under_way:
        if time.monotonic() > deadline:
            raise TimeoutError(f"account {account} was not proved in {TIMEOUT_SECONDS:g} seconds")
        time.sleep(0.2)
    result = found.result
    if result is None:
        return {"proves": False, "trouble": found.trouble}
    bank = {} if result.at_bank is None else {
        "at_the_bank": str(result.at_bank.balance), "open_lines": str(result.at_bank.open_lines),
        "bank_not_accounted_for": str(result.at_bank.not_accounted_for),
    }  # fmt: skip
    stands = {} if result.standing is None else {"not_accounted_for": str(result.standing.not_accounted_for)}
    provider = {} if result.at_provider is None else {"at_the_provider": _at_provider(result.at_provider)}
    columns = {column: str(result.amounts[column]) for column in found.columns}
    return {"proves": found.proves, **columns, "closing": str(result.closing), "books": str(result.books), **stands,
            **bank, **provider}  # fmt: skip


def _at_provider(found: AtProvider) -> Json:
    """What the provider has not paid out, and how much of it is known on one side alone."""
    return {
        **{column: str(amount) for column, amount in found.amounts.items()},
        **{name: str(getattr(found, name)) for name in ("balance", "here", "only_here", "only_there", "otherwise")},
        **({"trouble": found.trouble} if found.trouble else {}),
    }


def _by_link(stack: Stack, calls: WorkspaceCalls) -> Json:
    """Ask for invoices by link, pay them as their buyers would, one of them beyond what was asked; and add up what the
    ERP has of that and of the one that was paid by bank, asked past the service."""
    bridge = calls.bridge(facts()["payouts_bridge"]["slug"])
    for lane in ("requests", "request_payments"):
        bridge.switch_lane(lane, on=True)
    lanes = ["requests", "request_payments"]
    _ended(calls, bridge.run(lanes=lanes))
    by_bank = _paid_by_bank(calls)
    asked = {one.invoice: one for one in calls.requests.all()}
    buyer = httpx.Client(verify=False)  # noqa: S501 plain HTTP
    _pay(buyer, asked["SI-09001"].link)
    _pay(buyer, asked["SI-09002"].link, minor="10000")
    _ended(calls, bridge.run(lanes=lanes))
    # At two pages at once, or by bank: more comes in than is open.
    (request,) = calls.crossing(asked["SI-09002"].crossing).documents
    demo_client.let_come_in(stack.standin, request.external_reference, 30_000)
    # The receipts of one run change their invoices, which the next one reads; then there is nothing new.
    for _ in range(2):
        _ended(calls, bridge.run(lanes=lanes))
    again = _ended(calls, bridge.run(lanes=lanes))
    books, by_number = _asked(stack, "erp"), {one.invoice: one for one in calls.requests.all()}
    source = facts()["weirgate"]["slug"]
    surplus = [one for one in _of(books.get("journal", []), source) if one["memo"].startswith("WGR-")]
    receipts = _of(books.get("receipt", []), source)
    return {
        "asked": {number: str(one.amount) for number, one in sorted(by_number.items())},
        "paid": {number: str(one.paid) for number, one in sorted(by_number.items())},
        "pages": {number: _heading(buyer, one.link) for number, one in sorted(by_number.items())},
        "receipts": _money(receipts, posted="posted", amount="amount"),
        "by_bank": by_bank,
        "surplus": {account: str(amount) for account, amount in sorted(_by_account(surplus).items())},
        "still_open": {one["number"]: _open([one], posted="posted") for one in books["invoice"]
                       if one["number"] in asked or one["number"] == "SI-09004"},
        "second_run": {"carried": again.counts.carried, "held": again.counts.held},
    }  # fmt: skip


def _paid_by_bank(calls: WorkspaceCalls) -> Json:
    """What lines of the bank pay of invoices, once these have been read: that goes by itself."""
    account, deadline = calls.bank_account(facts()["bank"]["slug"]), time.monotonic() + TIMEOUT_SECONDS
    while not (found := [one for line in account.lines(state="matched") for one in line.matches
                         if one.kind == "requests"]):  # fmt: skip
        if time.monotonic() > deadline:
            raise TimeoutError(f"the invoice that was paid by bank was not found in {TIMEOUT_SECONDS:g} seconds")
        time.sleep(0.2)
    _until_idle(calls)
    return {one.number: str(one.amount) for one in found}


def _pay(buyer: httpx.Client, link: str, **asked: str) -> None:
    """Open a payment link, go on to the provider's page, and pay there."""
    found = re.search(r'class="pay" href="([^"]+)"', buyer.get(link).text)
    assert found is not None, link
    buyer.post(html.unescape(found[1]), data=asked).raise_for_status()


def _heading(buyer: httpx.Client, link: str) -> str:
    found = re.search(r"<h1>([^<]*)</h1>", buyer.get(link).text)
    return html.unescape(found[1]) if found else ""


def _until_idle(calls: WorkspaceCalls) -> None:
    """Wait until nothing is on its way over the bridge of the payouts: what arrived goes there by itself."""
    slug, deadline = facts()["payouts_bridge"]["slug"], time.monotonic() + TIMEOUT_SECONDS
    while any(True for _ in calls.crossings(bridge=slug, state="waiting")):
        if time.monotonic() > deadline:
            raise TimeoutError(f"what arrived at the bank was not posted in {TIMEOUT_SECONDS:g} seconds")
        time.sleep(0.2)


def _by_account(journals: list[Json]) -> dict[str, Decimal]:
    """Debits less credits of posted journals."""
    moved: dict[str, Decimal] = defaultdict(Decimal)
    for journal in journals:
        for line in journal["lines"] if journal["state"] == "posted" else ():
            moved[line["account"]] += Decimal(line["debit"]) - Decimal(line["credit"])
    return moved


def _afterwards(stack: Stack, calls: WorkspaceCalls) -> Json:
    """Let the web shop's orders change, carry that, and tell what was added to each in the books."""
    slug = facts()["bridge"]["slug"]
    before = {document.external_reference for crossing in calls.crossings(bridge=slug)
              for document in crossing.documents}  # fmt: skip
    demo_client.change_afterwards(stack.standin)
    run = _ended(calls, calls.bridge(slug).run())
    added = {
        crossing.number: [_in_words(document) for document in crossing.documents
                          if document.external_reference not in before]
        for crossing in calls.crossings(bridge=slug)
    }  # fmt: skip
    # What is held in other currencies changed nothing.
    period = next((one for one in calls.tie_out(bridge=slug).sales if one.currency == "GBP"), None)
    return {
        "carried": run.counts.carried,
        "held": run.counts.held,
        "documents": {number: documents for number, documents in sorted(added.items()) if documents},
        "unexplained": _side(period and period.unexplained),
        "cancelled": _side(period and period.part("cancelled after it was posted")),
        "differ_when_read_again": _read_again(calls),
    }


def _read_again(calls: WorkspaceCalls) -> int:
    """Have all that was posted read again, and say how much of it differs: nobody has touched it."""
    calls.read_again(first=date(2026, 10, 1), last=date(2026, 11, 30))
    deadline = time.monotonic() + TIMEOUT_SECONDS
    while calls.still_to_read():
        if time.monotonic() > deadline:
            raise TimeoutError(f"what was posted was not read again in {TIMEOUT_SECONDS:g} seconds")
        time.sleep(0.5)
    return sum(1 for _ in calls.crossings(state="differs"))


def _in_words(document: Any) -> str:
    rounding = f", rounding {document.difference}" if document.difference else ""
    return f"{document.role} {document.gross}{rounding}"


def example_with_peers(stack: Stack, say: Callable[[str], None]) -> Json:
    """The same with two real systems at the ends: what was read and what became of it, on both sides."""
    slug, bridge = facts()["workspace"]["slug"], facts()["peers_bridge"]["slug"]
    where = demo_peers.addresses()
    token = demo_client.open_workspace(stack, "a-password-for-one-run", workspace=slug, email=EMAIL)
    calls = Client(stack.address, token=token).workspace(slug)
    demo_peers.set_up(calls, where)
    say("Carrying the storefront's orders into Tryton.")
    first = _ended(calls, calls.bridge(bridge).run())
    say("Running once more: nothing may be made twice.")
    second = _ended(calls, calls.bridge(bridge).run())
    return {bridge: _figures(calls, first, second) | {"in_the_books": demo_peers.in_tryton(where["tryton"])}}


def _run_all(calls: WorkspaceCalls) -> dict[str, Run]:
    started = {bridge: calls.bridge(facts()[bridge]["slug"]).run() for bridge in demo_client.BRIDGES}
    return {bridge: _ended(calls, run) for bridge, run in started.items()}


def _ended(calls: WorkspaceCalls, run: Run) -> Run:
    deadline = time.monotonic() + TIMEOUT_SECONDS
    while run.under_way:
        if time.monotonic() > deadline:
            raise TimeoutError(f"run {run.id} did not end in {TIMEOUT_SECONDS:g} seconds")
        time.sleep(0.2)
        run = calls.run(run.id)
    return calls.run(run.id)


def _figures(calls: WorkspaceCalls, first: Run, second: Run) -> Json:
    # In the currency that nearly all of it is in.
    sides = max(first.totals, key=lambda one: one.source.count, default=None)
    ties = calls.tie_out(bridge=first.bridge)
    # Of several currencies one that is not explained speaks for them all.
    period = next((one for one in ties.sales if _is_open(one.unexplained)), next(iter(ties.sales), None))
    currency = sides.currency if sides else ""
    crossings = list(calls.crossings(bridge=first.bridge))
    carried = [crossing for crossing in crossings if crossing.state == "carried"]
    rounded = [document for crossing in carried for document in crossing.documents if document.difference]
    return {
        **{name: getattr(first.counts, name) for name in ("read", "carried", "held", "left_out", "differs", "waiting")},
        "source": _side(sides and sides.source),
        "books": _side(sides and sides.books),
        "unexplained": _side(period and period.unexplained),
        "tax_codes": {row.tax_code: _both(row) for row in ties.tax_codes},
        "tenders": {row.tender: _tender(row) for row in ties.tenders if row.currency == currency},
        "holds": dict(Counter(crossing.cause for crossing in crossings if crossing.state == "held")),
        "rounding": {
            "documents": len(rounded),
            "amount": _sum(document.difference or Decimal(0) for document in rounded),
        },
        "second_run": {"carried": second.counts.carried, "held": second.counts.held},
        "states": {crossing.number: crossing.state for crossing in crossings},
        "odd": {crossing.number: _odd(crossing) for crossing in carried if crossing.documents},
    }


def _both(row: Any) -> Json:
    """Net and tax of a tax code on both sides, and what is left between them."""
    sides = {"source": row.source, "books": row.books, "difference": row.difference}
    return {name: {"net": str(side.net), "tax": str(side.tax)} for name, side in sides.items()}


def _tender(row: SheetRow) -> Json:
    """The money of a tender on both sides: what never comes as money, and what of it has not crossed."""
    not_crossed = sum((row.part(reason).gross for reason in ("held", "left out", "waiting")), Decimal(0))
    return {
        "source": str(row.source.gross),
        "not_as_money": str(row.part("not as money").gross + row.part("converted").gross),
        "not_crossed": str(not_crossed),
        "books": str(row.books.gross),
        "unexplained": str(row.unexplained.gross),
    }


def _is_open(totals: Any) -> bool:
    return any((totals.count, totals.net, totals.tax, totals.gross))


def _side(totals: Any) -> Json:
    if totals is None:
        return {}
    return {"count": totals.count, "net": str(totals.net), "tax": str(totals.tax), "gross": str(totals.gross)}


def _odd(crossing: Any) -> dict[str, str]:
    document = crossing.documents[0]
    amounts = {"net": document.net, "tax": document.tax, "gross": document.gross, "rounding": document.difference}
    return {name: str(amount) for name, amount in amounts.items()}


def _erp(stack: Stack, source: str) -> Json:
    """What the ERP holds of a sales side by its own account, asked past the service."""
    contents = _asked(stack, "erp")
    kept = {kind: _of(contents.get(kind, []), source) for kind in ("invoice", "credit_note", "receipt", "repayment")}
    return {
        **_documents(kept["invoice"], posted="posted"),
        "credit_notes": _documents(kept["credit_note"], posted="posted"),
        "receipts": _money(kept["receipt"], posted="posted", amount="amount"),
        "repayments": _money(kept["repayment"], posted="posted", amount="amount"),
        "open": _open(kept["invoice"], posted="posted"),
        "contacts": len(contents["contact"]),
    }


def _ledger(stack: Stack, source: str) -> Json:
    """What the ledger holds of a sales side by its own account."""
    contents = _asked(stack, "ledger")
    kept = {kind: _of(contents.get(kind, []), source)
            for kind in ("invoices", "credit-notes", "payments-in", "payments-out")}  # fmt: skip
    return {
        **_documents(kept["invoices"], posted="released"),
        "credit_notes": _documents(kept["credit-notes"], posted="released"),
        "receipts": _money([one | one["said"] for one in kept["payments-in"]], posted="released", amount="sum"),
        "repayments": _money([one | one["said"] for one in kept["payments-out"]], posted="released", amount="sum"),
        "contacts": len(contents["contact"]),
    }


def _of(documents: list[Json], source: str) -> list[Json]:
    """Those under the marks of one sales side."""
    return [one for one in documents if one["reference"].startswith(f"INK:{source}:")]


def _money(documents: list[Json], *, posted: str, amount: str) -> Json:
    live = [one for one in documents if one["state"] == posted]
    by_account = {account: _sum(Decimal(one[amount]) for one in live if one["account"] == account)
                  for account in sorted({one["account"] for one in live})}  # fmt: skip
    return {"posted": len(live), "amount": _sum(Decimal(one[amount]) for one in live), "by_account": by_account}


def _open(invoices: list[Json], *, posted: str) -> str:
    """What is still owed on invoices."""
    live = [one for one in invoices if one["state"] == posted]
    return _sum(Decimal(one["gross"]) - Decimal(one.get("paid", "0")) for one in live)


def _contact_list(stack: Stack, source: str) -> Json:
    """Who is on the contact list by its own account."""
    people = _asked(stack, "contact-list")["person"]
    return {"contacts": len(people), "different_emails": len({person["email"].lower() for person in people})}


def _asked(stack: Stack, kind: str) -> Json:
    return dict(httpx.get(f"{stack.standin(kind)}/{demo_client.WORLD}/control/contents").json())


def _documents(documents: list[Json], *, posted: str) -> Json:
    live = [one for one in documents if one["state"] == posted]
    return {
        "posted": len(live),
        "drafts": sum(one["state"] == "draft" for one in documents),
        "different_references": len({one["reference"] for one in live}),
        **{name: _sum(Decimal(one[name]) for one in live) for name in ("net", "tax", "gross")},
    }


def _sum(amounts: Iterable[Decimal]) -> str:
    return str(sum(amounts, Decimal(0)))


def differences(found: Json, expected: Json, path: str = "") -> list[str]:
    """Every figure that is not as the demo data says."""
    wrong = []
    for name, value in expected.items():
        met = found.get(name) if isinstance(found, dict) else None
        at = f"{path}{name}"
        if isinstance(value, dict):
            wrong += differences(met or {}, value, f"{at}.")
        elif met != value:
            wrong.append(f"{at}: expected {value}, found {met}")
    return wrong
