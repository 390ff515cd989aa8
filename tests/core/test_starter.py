"""Rules to start from: chosen by type, rate and name, and marked until somebody agrees."""

from __future__ import annotations

import datetime
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core import rulebook as rules
from inkwell_bridge.core.books import Account, AccountType, MasterData, TaxCode
from inkwell_bridge.core.commerce import Rate, SalesMasterData, TaxClass
from inkwell_bridge.core.findings import Level
from inkwell_bridge.core.rulebook import Rulebook, SourceMap
from inkwell_bridge.core.rulebook.starter import starter, still_proposed

BOOKS = MasterData(
    company="Fellgate Wool Ltd",
    currency="GBP",
    accounts=(
        Account(code="100", name="Bank account", type=AccountType.BANK),
        Account(code="110", name="Card clearing", type=AccountType.ASSET),
        Account(code="205", name="Gift cards", type=AccountType.LIABILITY),
        Account(code="400", name="Shop turnover", type=AccountType.INCOME),
        Account(code="401", name="Sales of wool", type=AccountType.INCOME),
        Account(code="300", name="Sundry income", type=AccountType.INCOME),
        Account(code="500", name="Cost of sales", type=AccountType.EXPENSE),
        Account(code="510", name="Carriage paid", type=AccountType.EXPENSE),
        Account(code="700", name="Rounding", type=AccountType.EXPENSE),
    ),
    tax_codes=(
        TaxCode(code="P20", name="Purchases at 20 %", rate_percent=Decimal(20)),
        TaxCode(code="T1", name="Standard", rate_percent=Decimal(20)),
        TaxCode(code="T0", name="Zero rate", rate_percent=Decimal(0)),
        TaxCode(code="TX", name="Export", rate_percent=Decimal(0)),
        TaxCode(code="T9", name="No VAT", rate_percent=Decimal(0), outside=True),
    ),
)
SHOP = SalesMasterData(
    seller="Fellgate",
    currency="GBP",
    tax_classes=(
        TaxClass(name="standard", rates=(Rate(name="VAT", rate_percent=Decimal(20)),)),
        TaxClass(name="export", rates=(Rate(name="none", rate_percent=Decimal(0)),)),
        TaxClass(name="odd", rates=(Rate(name="VAT", rate_percent=Decimal("13.5")),)),
        TaxClass(name="state", rates=tuple(Rate(name="of two", rate_percent=Decimal(rate)) for rate in (2, 3))),
    ),
    payment_methods=("card", "bank transfer", "gift card"),
    order_statuses=("awaiting payment", "paid", "completed", "cancelled"),
)  # fmt: skip


def started(
    books: MasterData = BOOKS, shop: SalesMasterData | None = SHOP, **more: str
) -> tuple[str, Rulebook, SourceMap]:
    """The text, and what it says."""
    text = starter("Wool", books, shop, starts_on=datetime.date(2026, 10, 1), **more)
    book, source_map = rules.read(text, file="x.yaml", base=lambda _: None)
    return text, book, source_map


def test_accounts_are_chosen_by_type_and_name() -> None:
    """The likeliest word first; an expense is no income, and what nothing speaks for is left out with its reason."""
    text, book, _ = started()
    orders = book.for_orders
    assert orders.accounts.sales.default == "401", "'sales' goes before 'turnover'"
    # Carriage paid is an expense; of the income accounts none is called like it, so the first of them is named.
    assert orders.accounts.shipping.default == "300"
    assert "Sundry income; nothing is called like it" in text
    assert orders.accounts.gift_cards is not None
    assert orders.accounts.gift_cards.default == "205"
    assert orders.accounts.tips is None
    assert '# tips: "..."' in text


def test_tax_codes_are_chosen_by_rate_and_name() -> None:
    """A code of purchases is never taken; of two at one rate the one that is called like the class."""
    text, book, _ = started()
    codes = book.for_orders.tax_codes
    assert codes.by_class == {"standard": "T1", "export": "TX"}
    assert codes.outside == "T9"
    assert '# odd: "..."' in text
    assert "13.5 %: no code of that rate" in text
    assert "2 %, 3 %: several taxes" in text


def test_methods_and_statuses() -> None:
    """Each method on the account that its money comes to; statuses in which nothing is sold are left out."""
    _, book, _ = started()
    by_method = book.for_orders.payments.accounts.by_method  # type: ignore[union-attr]
    assert by_method == {"card": "110", "bank transfer": "100", "gift card": "205"}
    assert list(book.for_orders.orders.statuses) == ["paid", "completed"]
    assert book.for_orders.orders.placed_from == datetime.date(2026, 10, 1)


def test_the_companys_own_country_counts() -> None:
    """A marketplace has the rates of many countries in one class; the rate at home finds its code."""
    rates = tuple(
        Rate(name="VAT", country=country, rate_percent=Decimal(rate)) for country, rate in (("DE", 19), ("GB", 20))
    )
    shop = SHOP.model_copy(update={"tax_classes": (TaxClass(name="standard", rates=rates),)})
    text = starter("Wool", BOOKS, shop, country="GB")
    assert 'standard: "T1"' in text
    assert "19 %, 20 %: several taxes" in starter("Wool", BOOKS, shop, country="FR")


def test_a_method_goes_to_the_account_that_is_called_like_it() -> None:
    """A marketplace pays out by itself, on a clearing account of its own name."""
    own = Account(code="116", name="Lanternfair clearing", type=AccountType.ASSET)
    books = BOOKS.model_copy(update={"accounts": (*BOOKS.accounts, own)})
    assert 'Lanternfair: "116"' in starter("Wool", books, SHOP.model_copy(update={"payment_methods": ("Lanternfair",)}))


def test_books_that_take_no_orders_get_rules_for_customers_alone() -> None:
    """A contact list has no accounts to propose."""
    text = starter("Contacts", BOOKS, SHOP, takes_orders=False)
    book, _ = rules.read(text, file="x.yaml", base=lambda _: None)
    assert book.orders is None
    assert "email" in book.customers.update
    assert still_proposed(text) == ()


def test_it_has_no_errors_and_says_what_is_proposed() -> None:
    """Everything named is there; the marks are counted until they are taken away."""
    text, book, source_map = started(guest_contact="GUESTS")
    books = BOOKS.model_copy(update={"contacts": ("GUESTS",)})
    found = [*rules.check(book, books, source_map=source_map),
             *rules.check_source(book, SHOP, master_data=books, source_map=source_map)]  # fmt: skip
    assert [one.text for one in found if one.level is Level.ERROR] == []
    (marked,) = still_proposed(text, file="x.yaml")
    # Statuses, guests, four accounts, two classes, the code outside tax, three methods.
    assert "12 choices are proposed" in marked.text
    assert marked.line == text.splitlines().index(next(one for one in text.splitlines() if "statuses" in one)) + 1
    assert still_proposed(text.replace("# proposed", "# agreed")) == ()
    assert still_proposed('name: "what is # proposed"')[0].line == 1, (
        "a mark in a text counts as well: rather once more"
    )


_NAMES = st.text(min_size=1, max_size=40).filter(lambda text: text.strip() and not {"\n", "\r"} & set(text))


@given(
    accounts=st.lists(st.tuples(_NAMES, st.sampled_from(AccountType)), max_size=8),
    classes=st.lists(st.tuples(_NAMES, st.decimals(0, 40, places=2)), max_size=4, unique_by=lambda one: one[0]),
    methods=st.lists(_NAMES, max_size=4, unique=True),
    name=_NAMES,
)
def test_whatever_the_ends_call_things_it_is_a_rulebook(
    accounts: list[tuple[str, AccountType]], classes: list[tuple[str, Decimal]], methods: list[str], name: str
) -> None:
    """Names with quotes, colons and signs of YAML never break it, nor does a chart that lacks what it needs."""
    books = BOOKS.model_copy(
        update={
            "accounts": tuple(
                Account(code=f"9{place}", name=called, type=kind) for place, (called, kind) in enumerate(accounts)
            )
        }
    )  # fmt: skip
    shop = SalesMasterData(
        seller=name,
        currency="GBP",
        tax_classes=tuple(TaxClass(name=one, rates=(Rate(name="VAT", rate_percent=rate),)) for one, rate in classes),
        payment_methods=tuple(methods),
    )
    rules.read(starter(name, books, shop), file="x.yaml", base=lambda _: None)
