"""Setting the demo's client up, through the same client library that anyone would use."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Any

import httpx

from inkwell_bridge.client import Client, WorkspaceCalls
from inkwell_bridge.client.bank import BankAccountCalls
from inkwell_bridge.client.models import TakenFile
from inkwell_bridge.demo import bank, lanternfair, month, office, payouts
from inkwell_bridge.demo.afterwards import afterwards
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.demo.october import october
from inkwell_bridge.launch.stack import Stack
from inkwell_bridge.service import clock

WORLD = "marrowby"
# What of the books' facts stands in lists of its own.
LISTS = frozenset(
    {
        "accounts",
        "tax_codes",
        "contacts",
        "warehouses",
        "terms",
        "periods",
        "taxes",
        "dimensions",
        "price_lists",
        "units",
        "delivery_ways",
        "sellers",
        "print_languages",
    }
)
# Each connection of the demo by its entry in the facts: the kind of end, and what in the facts opens it.
CONNECTIONS = {
    "web_shop": ("web-shop", ("key", "secret")),
    "books": ("erp", ("user", "password")),
    "irish_shop": ("web-shop", ("key", "secret")),
    "irish_books": ("ledger", ("token",)),
    "contact_list": ("contact-list", ("token",)),
    "lanternfair": ("marketplace", ("client_id", "client_secret")),
    "weirgate": ("payment-provider", ("token",)),
}
# Each bridge by its entry in the facts: from, to, whose company, and the lanes that are switched on.
BRIDGES = {
    "bridge": ("web_shop", "books", "company", ("orders", "refunds")),
    "irish_bridge": ("irish_shop", "irish_books", "irish_company", ("orders",)),
    "contacts_bridge": ("web_shop", "contact_list", "company", ("customers",)),
    "fair_eur_bridge": ("lanternfair", "irish_books", "irish_company", ("orders", "refunds", "payouts")),
    "fair_usd_bridge": ("lanternfair", "books", "company", ("orders", "refunds")),
}
# What the web shop's payment provider pays out; its orders go before.
PAYOUTS_BRIDGE = {"payouts_bridge": ("weirgate", "books", "company", ("payouts",))}
# The same between the two real systems.
PEERS_BRIDGE = {"peers_bridge": ("vendure", "tryton", "company", ("orders", "refunds"))}


def fill_standins(standin: Callable[[str], str], *, world: str = WORLD, whole_month: bool = False) -> None:
    """Put the charts of all books, and October, into the stand-ins: its first sixty orders, or all of it.

    ``standin`` says where the stand-in of a kind is.
    """
    shop: dict[str, Any] = month.web_shop() if whole_month else {"shop": facts()["web_shop"], "orders": october()}
    _tell(standin("web-shop"), world, {"reset": True, **shop})
    if whole_month:
        _tell(standin("web-shop"), f"{world}-ireland", {"reset": True, **month.irish_shop()})
    for kind, end in (("erp", "books"), ("ledger", "irish_books"), ("contact-list", "contact_list")):
        entries = facts()[end]
        locked = facts()["locked"].get(end, {}) if whole_month else {}
        company = {name: value for name, value in entries.items() if name not in LISTS} | locked
        lists = {name: value for name, value in entries.items() if name in LISTS}
        _tell(standin(kind), world, {"reset": True, "company": company, **lists})
    sold = lanternfair.market() if whole_month else lanternfair.first_sales()
    _tell(standin("marketplace"), world, {"reset": True, **sold})
    paid_out = payouts.weirgate() if whole_month else {"company": facts()["weirgate"]}
    _tell(standin("payment-provider"), world, {"reset": True, **paid_out})
    if whole_month:
        contacts = [*facts()["twins"], *facts()["old_contacts"]]
        _tell(standin("erp"), world, {"contacts": contacts, "articles": facts()["articles"]})
        enter_office_invoices(standin, world=world)


def enter_office_invoices(standin: Callable[[str], str], *, world: str = WORLD) -> None:
    """Let the office type invoices of its own into the UK books, for some of whose buyers Weirgate has a card on
    file."""
    _tell(standin("erp"), world, {"invoices": office.invoices()})
    contents = httpx.get(f"{standin('erp')}/{world}/control/contents", verify=False).json()  # noqa: S501 plain HTTP
    wallets = {"wallets": office.wallets(contents["contact"]), "clock": facts()["weirgate"]["clock"]}
    _tell(standin("payment-provider"), world, wallets)


def let_come_in(standin: Callable[[str], str], request: str, minor: int, *, world: str = WORLD) -> None:
    """Let money come in at the provider on a request, by its reference, whatever it still asks for."""
    _tell(standin("payment-provider"), world, {"came_in": [{"ref": request, "minor": minor}]})


def change_afterwards(standin: Callable[[str], str], *, world: str = WORLD) -> None:
    """Let the web shop's customers change their minds about orders of October."""
    _tell(standin("web-shop"), world, afterwards())


def do_after_sale(standin: Callable[[str], str], told: dict[str, Any], *, world: str = WORLD) -> None:
    """Let a merchant do something to a sale; whichever shop has it. See ``standins.after_sale``.

    Raises:
        RuntimeError: no shop has that sale, or the shop does not do that; the text says why.
    """
    for kind, place in (("web-shop", world), ("web-shop", f"{world}-ireland"), ("marketplace", world)):
        answer = httpx.post(f"{standin(kind)}/{place}/control/after-sale", json=told, verify=False)  # noqa: S501 plain HTTP
        if answer.status_code == httpx.codes.NOT_FOUND:
            continue
        if answer.is_error:
            raise RuntimeError(f"Nothing was changed: {answer.json()['error']}.")
        return
    raise RuntimeError(f"No shop of the demo has a sale {told['sale']}.")


def _tell(address: str, world: str, contents: dict[str, Any]) -> None:
    httpx.put(f"{address}/{world}/control/contents", json=contents, verify=False).raise_for_status()  # noqa: S501 plain HTTP


def set_clock(stack: Stack) -> None:
    """Let the demo's clock go on from the end of its October."""
    clock.set_file(stack.home / "clock", datetime.fromisoformat(facts()["clock"]))


def open_workspace(stack: Stack, password: str, *, workspace: str, email: str) -> str:
    """Open a workspace with its first owner; answers a token of that owner."""
    name = facts()["workspace"]["name"]
    stack.administer(
        "open_workspace",
        workspace,
        "--name",
        name,
        "--owner",
        email,
        "--owner-name",
        facts()["people"][0]["name"],
        given=f"{password}\n",
    )
    return Client(stack.address).make_token(email=email, password=password, name="demo")


def address_of(stack: Stack, end: str, *, world: str = WORLD) -> str:
    """Where an end of the demo is, by its entry in the facts."""
    kind, _ = CONNECTIONS[end]
    place = f"{stack.standin(kind)}/{world}"
    if kind == "web-shop":
        return f"{place}-ireland/api" if end == "irish_shop" else f"{place}/api"
    return place


def set_up(stack: Stack, calls: WorkspaceCalls, *, world: str = WORLD, rules: str = "") -> None:
    """The UK company with its shop, its books, the bridge between them and its rules, in the order of the work.

    With ``rules``, by these in place of the demo's, and carrying orders alone.
    """
    calls.create_company(**facts()["company"])
    connect(stack, calls, "web_shop", company="company", world=world)
    connect(stack, calls, "books", company="company", world=world)
    lay(calls, "bridge", rules=rules)


def set_up_others(stack: Stack, calls: WorkspaceCalls, *, world: str = WORLD) -> None:
    """The Irish company with its small shop and its ledger, and the contact list."""
    calls.create_company(**facts()["irish_company"])
    connect(stack, calls, "irish_shop", company="irish_company", world=world)
    connect(stack, calls, "irish_books", company="irish_company", world=world)
    lay(calls, "irish_bridge")
    connect(stack, calls, "contact_list", company="company", world=world)
    connect(stack, calls, "lanternfair", company="irish_company", world=world)
    enter_rates(calls)
    lay(calls, "fair_eur_bridge")
    lay(calls, "fair_usd_bridge")
    lay(calls, "contacts_bridge")


def set_up_payouts(stack: Stack, calls: WorkspaceCalls, *, world: str = WORLD) -> None:
    """The payment provider of the UK company's web shop, and the bridge that its payouts cross."""
    connect(stack, calls, "weirgate", company="company", world=world)
    lay(calls, "payouts_bridge")


def add_bank_account(calls: WorkspaceCalls) -> BankAccountCalls:
    """The UK company's account at the bank."""
    made = calls.create_bank_account(books=facts()["books"]["slug"], **facts()["bank"])
    return calls.bank_account(made.slug)


def read_statement(account: BankAccountCalls) -> TakenFile:
    """The bank's statement of October."""
    return account.take(bank.FILE, bank.statement().encode())


def enter_rates(calls: WorkspaceCalls) -> None:
    """The UK company's daily rates of October."""
    told = facts()["daily_rates"]
    rates = [
        {"day": row["day"], "currency": currency, "rate": row[currency]}
        for row in told["rates"]
        for currency in ("USD", "EUR")
    ]
    calls.exchange_rates(facts()["company"]["slug"]).keep(rates, source=told["source"])


def load_names(calls: WorkspaceCalls) -> None:
    """Have every end's names loaded in the background, so that there is something to look through and to link."""
    for connection in calls.connections():
        calls.connection(connection.slug).load()


def connect(stack: Stack, calls: WorkspaceCalls, end: str, *, company: str, world: str = WORLD) -> None:
    """Make a connection of the demo."""
    kind, credentials = CONNECTIONS[end]
    given = {name: facts()[end][name] for name in credentials}
    connect_to(calls, end, kind=kind, company=company, address=address_of(stack, end, world=world), credentials=given)


def connect_to(
    calls: WorkspaceCalls, end: str, *, kind: str, company: str, address: str, credentials: dict[str, str]
) -> None:
    """Make a connection to an end, named as in the facts."""
    calls.create_connection(
        slug=facts()[end]["slug"],
        name=facts()[end]["name"],
        kind=kind,
        company=facts()[company]["slug"],
        address=address,
        credentials=credentials,
    )


def point_at(calls: WorkspaceCalls, where: dict[str, str]) -> list[str]:
    """Point connections at where their ends are this time, by entry in the facts; answers the ends without one."""
    known = {connection.slug: connection.address for connection in calls.connections()}
    for end, address in where.items():
        slug = facts()[end]["slug"]
        if slug in known and known[slug] != address:
            calls.connection(slug).change(address=address)
    return [end for end in where if facts()[end]["slug"] not in known]


def lay(calls: WorkspaceCalls, bridge: str, *, rules: str = "") -> None:
    """Lay a bridge of the demo: load the books' reference data, publish its rules, switch its lanes on."""
    source, books, company, lanes = (BRIDGES | PAYOUTS_BRIDGE | PEERS_BRIDGE)[bridge]
    entries = facts()[bridge]
    calls.connection(facts()[books]["slug"]).load_master_data()
    ends = {"source": facts()[source]["slug"], "books": facts()[books]["slug"]}
    calls.create_bridge(**entries, **ends, company=facts()[company]["slug"])
    laid = calls.bridge(entries["slug"])
    laid.publish_rulebook(laid.write_rulebook(rules or rulebook_text(entries["slug"])).number)
    for lane in ("orders",) if rules else lanes:
        laid.switch_lane(lane, on=True)


def give_roles(calls: WorkspaceCalls, password: str) -> None:
    """The demo's other people."""
    for person in facts()["people"][1:]:
        invited = calls.invite(email=person["email"], name=person["name"], role=person["role"])
        Client(calls.address).accept_invitation(invited.link, password=password)
