"""The scenario's UK company in Tryton: chart, taxes, terms, warehouses, articles, and the user that we sign in as."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from inkwell_bridge.demo.facts import facts
from inkwell_bridge.ends.tryton.rpc import TrytonRpc

# From the scenario's own year to this one: what is sold today is posted today.
YEARS = range(2026, datetime.datetime.now(datetime.UTC).year + 1)
# Accounts of the minimal chart that take a code of the scenario.
OF_THE_CHART = {"1100": "Main Receivable", "1250": "Main Cash", "2200": "Main Tax", "4000": "Main Revenue",
                "5000": "Main Expense"}  # fmt: skip
GROUPS = ("Account", "Account Administration", "Accounting Party", "Sales", "Sales Administrator",
          "Product Administration", "Account Product Administration")  # fmt: skip
Json = dict[str, Any]


def fill(rpc: TrytonRpc, *, user: str, password: str) -> None:
    """Everything, in the order that Tryton wants it."""
    company = _company(rpc)
    for year in YEARS:
        _fiscal_year(rpc, company, year)
    _countries(rpc)
    _chart(rpc, company)
    _taxes(rpc, company)
    _terms(rpc)
    _warehouses(rpc)
    _articles(rpc)
    _house_contact(rpc)
    _journals(rpc)
    _user(rpc, company, user=user, password=password)


def _one(rpc: TrytonRpc, model: str, domain: list[Any]) -> int:
    return int(rpc.read(f"model.{model}.search", domain, 0, 1, None)[0])


def _create(rpc: TrytonRpc, model: str, **values: Any) -> int:
    return int(rpc.change(f"model.{model}.create", [values])[0])


def _wizard(rpc: TrytonRpc, name: str, *steps: tuple[Mapping[str, Json], str]) -> None:
    session, _, _ = rpc.change(f"wizard.{name}.create")
    for forms, state in steps:
        rpc.change(f"wizard.{name}.execute", session, forms, state)
    rpc.change(f"wizard.{name}.delete", session)


def _company(rpc: TrytonRpc) -> int:
    currencies = {
        code: _create(rpc, "currency.currency", name=code, symbol=code, code=code, rounding=Decimal("0.01"), digits=2)
        for code in facts()["books"]["currencies"]
    }
    for code, rate in (("GBP", "1"), ("EUR", "1.15"), ("USD", "1.25")):
        _create(rpc, "currency.currency.rate", currency=currencies[code], date=datetime.date(YEARS[0], 1, 1),
                rate=Decimal(rate))  # fmt: skip
    address = [["create", [{"street": "1 Dyers Row", "city": "Marrowby", "postal_code": "DL8 1AA"}]]]
    party = _create(rpc, "party.party", name=facts()["company"]["name"], addresses=address)
    form = {"company": {"party": party, "currency": currencies["GBP"], "timezone": facts()["company"]["time_zone"]}}
    _wizard(rpc, "company.company.config", ({}, "company"), (form, "add"))
    rpc.context |= {"company": _one(rpc, "company.company", [])}
    return int(rpc.context["company"])


def _countries(rpc: TrytonRpc) -> None:
    people = [*facts()["shoppers"], *facts()["overseas"], {"country": "DE"}, {"country": "IE"}]
    for code in sorted({person["country"] for person in people}):
        _create(rpc, "country.country", name=code, code=code)


def _fiscal_year(rpc: TrytonRpc, company: int, year: int) -> None:
    def sequence(model: str, kind: str, name: str, prefix: str) -> int:
        kind_id = _one(rpc, "ir.sequence.type", [["name", "=", kind]])
        return _create(rpc, model, name=name, sequence_type=kind_id, company=company, prefix=prefix, padding=5)

    moves = sequence("ir.sequence", "Account Move", f"Moves {year}", "GL-")
    invoices = sequence("ir.sequence.strict", "Invoice", f"Invoices {year}", "TI-")
    credits_ = sequence("ir.sequence.strict", "Invoice", f"Credit notes {year}", "TC-")
    bills = sequence("ir.sequence.strict", "Invoice", f"Bills {year}", "TB-")
    own = {"company": company, "out_invoice_sequence": invoices, "out_credit_note_sequence": credits_,
           "in_invoice_sequence": bills, "in_credit_note_sequence": bills}  # fmt: skip
    made = _create(rpc, "account.fiscalyear", name=str(year), start_date=datetime.date(year, 1, 1),
                   end_date=datetime.date(year, 12, 31), company=company, post_move_sequence=moves,
                   invoice_sequences=[["create", [own]]])  # fmt: skip
    rpc.change("model.account.fiscalyear.create_period", [made])


def _chart(rpc: TrytonRpc, company: int) -> None:
    root = _one(rpc, "ir.model.data", [["module", "=", "account"], ["fs_id", "=", "account_template_root_en"]])
    template = rpc.read("model.ir.model.data.read", [root], ["db_id"])[0]["db_id"]
    _wizard(rpc, "account.create_chart", ({}, "account"),
            ({"account": {"account_template": template, "company": company}}, "create_account"))  # fmt: skip
    accounts = rpc.search("account.account", [["type", "!=", None]], ["name", "type", "parent"])
    known = {account["name"]: account for account in accounts}
    parent = known["Main Revenue"]["parent"]
    for entry in facts()["books"]["accounts"]:
        values = {"code": entry["code"], "name": entry["name"]}
        if entry["code"] in OF_THE_CHART:
            rpc.change("model.account.account.write", [known[OF_THE_CHART[entry["code"]]]["id"]], values)
        else:
            kind = _type_of(rpc, entry["type"])
            _create(rpc, "account.account", **values, type=kind, parent=parent, company=company)
    properties = {"receivable": known["Main Receivable"]["id"], "payable": known["Main Payable"]["id"]}
    _default_accounts(rpc, properties)


def _type_of(rpc: TrytonRpc, kind: str) -> int:
    wanted = {"income": [["revenue", "=", True]], "expense": [["expense", "=", True]]}.get(kind)
    if wanted is None:
        wanted = [["statement", "=", "balance"], ["assets", "=", kind in {"asset", "bank"}],
                  ["receivable", "=", False], ["payable", "=", False]]  # fmt: skip
    return _one(rpc, "account.account.type", wanted)


def _default_accounts(rpc: TrytonRpc, accounts: Json) -> None:
    configuration = rpc.read("model.account.configuration.search", [], 0, 1, None)
    values = {"default_account_receivable": accounts["receivable"], "default_account_payable": accounts["payable"],
              "tax_rounding": "line"}  # fmt: skip
    if configuration:
        rpc.change("model.account.configuration.write", configuration, values)
    else:
        _create(rpc, "account.configuration", **values)


def _taxes(rpc: TrytonRpc, company: int) -> None:
    account = _one(rpc, "account.account", [["code", "=", "2200"]])
    for entry in facts()["books"]["tax_codes"]:
        # A tax of no type is how Tryton says that something is outside the tax.
        rate = {"type": "none"} if entry["outside"] else {"type": "percentage", "rate": Decimal(entry["rate"]) / 100}
        own = {"name": entry["code"], "description": entry["name"], "company": company, **rate}
        _create(rpc, "account.tax", **own, invoice_account=account, credit_note_account=account)


def _terms(rpc: TrytonRpc) -> None:
    for entry, days in zip(facts()["books"]["terms"], (30, 0), strict=True):
        line = {"type": "remainder", "relativedeltas": [["create", [{"days": days}]]]}
        _create(rpc, "account.invoice.payment_term", name=entry["code"], description=entry["name"],
                lines=[["create", [line]]])  # fmt: skip


def _warehouses(rpc: TrytonRpc) -> None:
    first = _one(rpc, "stock.location", [["type", "=", "warehouse"]])
    dyehouse, mill = facts()["books"]["warehouses"]
    rpc.change("model.stock.location.write", [first], dyehouse)
    places = {kind: _create(rpc, "stock.location", name=f"Mill {kind}", type="storage") for kind in
              ("input", "output", "storage")}  # fmt: skip
    _create(rpc, "stock.location", type="warehouse", **mill, input_location=places["input"],
            output_location=places["output"], storage_location=places["storage"])  # fmt: skip


def _articles(rpc: TrytonRpc) -> None:
    unit = _one(rpc, "product.uom", [["name", "=", "Unit"]])
    sales, costs = (_one(rpc, "account.account", [["code", "=", code]]) for code in ("4000", "5000"))
    for code in ("S20", "R05", "Z00"):
        tax = _one(rpc, "account.tax", [["name", "=", code]])
        _create(rpc, "product.category", name=f"Sold at {code}", accounting=True, account_revenue=sales,
                account_expense=costs, customer_taxes=[["add", [tax]]])  # fmt: skip
    of_class = {"standard": "S20", "reduced": "R05", "zero": "Z00"}
    for article in facts()["catalogue"]:
        category = _one(rpc, "product.category", [["name", "=", f"Sold at {of_class[article['class']]}"]])
        _create(rpc, "product.template", name=article["title"], default_uom=unit, type="goods", salable=True,
                sale_uom=unit, list_price=Decimal(article["pence"]) / 100, account_category=category,
                products=[["create", [{"suffix_code": article["sku"]}]]])  # fmt: skip


def _house_contact(rpc: TrytonRpc) -> None:
    for entry in facts()["books"]["contacts"]:
        mechanisms = [["create", [{"type": "email", "value": entry["email"]}]]] if entry["email"] else []
        _create(rpc, "party.party", code=entry["code"], name=entry["name"], contact_mechanisms=mechanisms,
                addresses=[["create", [{}]]])  # fmt: skip


def _journals(rpc: TrytonRpc) -> None:
    """A way to be paid: its account is known for a bank's."""
    bank = _one(rpc, "account.account", [["code", "=", "1200"]])
    cash = _one(rpc, "account.journal", [["type", "=", "cash"]])
    _create(rpc, "account.invoice.payment.method", name="Current account", journal=cash, credit_account=bank,
            debit_account=bank)  # fmt: skip


def _user(rpc: TrytonRpc, company: int, *, user: str, password: str) -> None:
    groups = [_one(rpc, "res.group", [["name", "=", name]]) for name in GROUPS]
    _create(rpc, "res.user", name="Inkwell Bridge", login=user, password=password, groups=[["add", groups]],
            companies=[["add", [company]]], company=company)  # fmt: skip
