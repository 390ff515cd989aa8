"""Rules as files, with no service: checked, compared, and planned with, by people and by a repository's own checks."""

from __future__ import annotations

import json
import os
import subprocess
from pathlib import Path
from typing import Any

import pytest

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.commerce import Refund
from tests.cli.test_cli import INKWELL
from tests.core.test_cases import BASE, EVERY, books, order, refund

CASES: dict[str, Any] = {param.values[0]["case"]: param.values[0] for param in EVERY}


def inkwell(*arguments: str | Path, status: int = 0) -> str:
    """What a command printed, on either stream; nobody is signed in."""
    environment = {"PATH": os.environ["PATH"], "HOME": "/nonexistent", "INKWELL_PROFILE": "/nonexistent/profile"}
    done = subprocess.run([INKWELL, *map(str, arguments)], text=True, capture_output=True, env=environment, check=False)
    assert done.returncode == status, (done.stdout, done.stderr)
    return done.stdout + done.stderr


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A repository's folder: base rules, the client's own upon them, the books' reference data, an order."""
    (tmp_path / "base.yaml").write_text(BASE, "utf-8")
    (tmp_path / "rules.yaml").write_text("rulebook: 1\nbased_on: base.yaml\n", "utf-8")
    (tmp_path / "books.json").write_text(books().written(), "utf-8")
    given = order(CASES["a gift card and a card"]["order"])
    (tmp_path / "order.json").write_text(given.written(), "utf-8")
    return tmp_path


def known(folder: Path) -> tuple[str | Path, ...]:
    """The options that every plan needs."""
    return ("--rulebook", folder / "rules.yaml", "--reference", folder / "books.json", "--time-zone", "Europe/London")


def test_an_order_is_planned_for_people(folder: Path) -> None:
    """Lines, money, and the reason of each with the rule behind it."""
    said = inkwell("plan", folder / "order.json", *known(folder))
    assert said.startswith("order.json would be carried.\ninvoice of 2026-10-05, 12.00 GBP\n")
    assert "payment of 10.00 GBP on 2310, 2026-10-05" in said
    assert "payment of 2.00 GBP on 1250, 2026-10-05" in said
    assert "Money by tender 'gift card' goes to 2310." in said
    assert "/payments/accounts/by_tender/gift card" in said


def test_what_no_file_says_is_named(folder: Path) -> None:
    """A trial without the books cannot know everything, and says so; quantities and what is left to pay are told."""
    said = inkwell("plan", folder / "order.json", *known(folder))
    assert "Quantity" in said
    assert "0.00 left to pay" in said
    assert said.rstrip().endswith(
        "Not checked: the customer in the books; whether somebody typed it into the books already; whether the books "
        "themselves would take it."
    )


@pytest.mark.parametrize(("change", "why"), [
    ({"locked_until": "2026-10-31"}, "the books are locked up to 2026-10-31"),
    ({"accounts": [{"code": "4000", "name": "Sales", "type": "income"}]}, "is not in the books of"),
])  # fmt: skip
def test_a_plan_is_held_as_a_run_would_hold_it(folder: Path, change: dict[str, Any], why: str) -> None:
    """Rules that do not fit these books, and a day that is closed."""
    said = json.loads((folder / "books.json").read_text("utf-8"))
    (folder / "books.json").write_text(json.dumps({**said, **change}), "utf-8")
    text = inkwell("plan", folder / "order.json", *known(folder), status=1)
    assert text.startswith("order.json would be held for a person.")
    assert why in text


def test_a_total_that_the_books_would_not_make_is_held(folder: Path) -> None:
    """These books compute their taxes: 3.08 of 15.42 is 3.084, and 3.40 is too far from that."""
    (folder / "order.json").write_text(order({"lines": [{"sum": "18.50", "tax": "3.40"}]}).written(), "utf-8")
    rules = "rulebook: 1\nbased_on: base.yaml\ntax_codes: {other_rates: warn}\n"
    (folder / "rules.yaml").write_text(rules, "utf-8")
    text = inkwell("plan", folder / "order.json", *known(folder), "--books", "erp", status=1)
    assert "+0.38 to settle, and more than 0.05 apart; a run would hold it." in text


@pytest.mark.parametrize(("name", "text", "why"), [
    ("books.json", '{"company": "x"}', "books.json, /currency: "),
    ("books.json", "[" * 100_000, "is no JSON"),
    ("books.json", "nonsense", "is no JSON"),
    ("order.json", '{"id": 1}', "order.json, /"),
    ("rules.yaml", "rulebook: 1\nbased_on: base.yaml\nordres: {}\n", "the key 'ordres' is not known here"),
])  # fmt: skip
def test_a_file_that_is_not_right_is_no_traceback(folder: Path, name: str, text: str, why: str) -> None:
    """File and place, and the status for what is not right; in JSON as a problem."""
    (folder / name).write_text(text, "utf-8")
    said = inkwell("plan", folder / "order.json", *known(folder), status=5)
    assert why in said
    assert "Traceback" not in said
    problem = json.loads(inkwell("plan", folder / "order.json", *known(folder), "--json", status=5))
    assert (problem["title"], why in problem["detail"]) == ("What was given is not right", True)


def test_an_order_in_another_currency_is_planned_by_a_file_of_rates(folder: Path) -> None:
    """24.00 EUR at 0.8550 are 20.52 GBP; without the file nobody knows a rate, and a wrong file says where."""
    foreign = {"currency": "EUR", "lines": [{"sum": "24.00", "tax": "4.00"}]}
    (folder / "order.json").write_text(order(foreign).written(), "utf-8")
    rules = ("rulebook: 1\nbased_on: base.yaml\norders: {currencies: converted}\n"
             'accounts: {exchange_differences: "8200"}\nexchange_rates: {taken_from: table}\n')  # fmt: skip
    (folder / "rules.yaml").write_text(rules, "utf-8")
    (folder / "rates.csv").write_text("day,currency,rate\n2026-10-02,EUR,0.8550\n", "utf-8")
    command = ("plan", folder / "order.json", *known(folder))
    assert "no rate to GBP is known on 2026-10-05" in inkwell(*command, status=1)
    said = inkwell(*command, "--rates", folder / "rates.csv")
    assert "20.52 GBP" in said
    assert "In GBP by rule: 1 EUR = 0.855 GBP (rates.csv, 2026-10-02)." in said
    (folder / "rates.csv").write_text("day,currency,rate\n2026-10-02,EUR,much\n", "utf-8")
    assert "rates.csv: line 2" in inkwell(*command, "--rates", folder / "rates.csv", status=5)


def test_refunds_are_planned_after_those_before_them(folder: Path) -> None:
    """Of three skeins rounded once, the third comes back with what is left: 9.99 with 1.66, not 1.67."""
    case = CASES["the last of three equal parts, worked out"]
    sold = order(case["order"])
    rules = "rulebook: 1\nbased_on: base.yaml\ntax_codes: {amounts: worked out}\n"
    (folder / "rules.yaml").write_text(rules, "utf-8")
    (folder / "order.json").write_text(sold.written(), "utf-8")
    for number, one in enumerate([*case["before"], case["back"]]):
        (folder / f"refund-{number}.json").write_text(refund(one, sold).written(), "utf-8")
    last = ("plan", folder / "refund-2.json", "--of", folder / "order.json", *known(folder), "--json")
    alone, after = (
        json.loads(inkwell(*last, *more))[0]["documents"][0]["lines"][0]["tax"]
        for more in ((), ("--given-back", folder / "refund-0.json", "--given-back", folder / "refund-1.json"))
    )
    assert (alone, after) == ("1.67", "1.66")


def test_an_order_is_planned_for_programs(folder: Path) -> None:
    """The plan as the service makes it, amounts as text."""
    (found,) = json.loads(inkwell("plan", folder / "order.json", *known(folder), "--json"))
    assert (found["outcome"], found["open_balance"]) == ("carry", "0.00")
    assert [document["role"] for document in found["documents"]] == ["invoice", "payment", "payment"]


def test_what_would_be_held_ends_with_status_1(folder: Path) -> None:
    """With what is missing, and what to do."""
    (folder / "rules.yaml").write_text(
        "rulebook: 1\nbased_on: base.yaml\npayments: {accounts: {by_tender: {gift card: }}}\n", "utf-8"
    )
    said = inkwell("plan", folder / "order.json", *known(folder), status=1)
    assert "order.json would be held for a person." in said
    assert "error: No account takes the payment of 10.00 GBP for MW-501" in said


def test_a_refund_is_planned_with_its_order(folder: Path) -> None:
    """The credit note, and the money that went back."""
    case = CASES["one of two lines"]
    of = order(case["order"])
    (folder / "order.json").write_text(of.written(), "utf-8")
    (folder / "refund.json").write_text(refund(case["back"], of).written(), "utf-8")
    said = inkwell("plan", folder / "refund.json", "--of", folder / "order.json", *known(folder))
    assert "credit note of 2026-10-05, 14.99 GBP" in said
    assert "refund payment of 14.99 GBP on 1250" in said
    assert isinstance(refund(case["back"], of), Refund)


def test_a_deposit_is_planned_from_payment_to_delivery(folder: Path) -> None:
    """First the debt and the tax that is not due; on its day what is left of it, after the refund that went before."""
    case = CASES["one of two given back, the other taxed on the day"]
    held = order(case["order"])
    (folder / "order.json").write_text(held.model_copy(update={"tags": ()}).written(), "utf-8")
    (folder / "held.json").write_text(held.written(), "utf-8")
    (folder / "refund.json").write_text(refund(case["gone"][0], held).written(), "utf-8")
    (folder / "rules.yaml").write_text(
        "rulebook: 1\nbased_on: base.yaml\norders:\n  deposits: taxed when delivered\n"
        "  delivered: {when: '\"held\" in order.tags', dated: placed}\n", "utf-8",
    )  # fmt: skip
    paid = inkwell("plan", folder / "order.json", *known(folder))
    assert paid.startswith("order.json would be carried.\ninvoice of 2026-10-05, 170.00 GBP\n")
    assert "tax of 28.33 is not due: it is of what was paid ahead and is not delivered" in paid
    assert "Paid ahead, with the tax of 28.33 that is due once it is delivered: a debt until then." in paid

    back = ("--given-back", folder / "refund.json")
    (plan,) = json.loads(inkwell("plan", folder / "held.json", *known(folder), *back, "--json"))
    final = plan["documents"][1]
    assert [(line["account"], line["net"], line["tax"], line["text"]) for line in final["lines"]] == [
        ("4000", "70.84", "14.16", "Line 1"), ("2300", "-85.00", "0.00", "Paid ahead: Line 1"),
    ]  # fmt: skip
    assert plan["untaxed"] == "14.17"
    whole = inkwell("plan", folder / "held.json", *known(folder))
    assert "invoice of 2026-10-05, 0.00 GBP" in whole
    assert "is not due" not in whole


def test_a_rulebook_is_checked(folder: Path) -> None:
    """Against the books, and against what their kind can do."""
    said = inkwell("rulebook", "check", folder / "rules.yaml", "--reference", folder / "books.json")
    assert said == "rules.yaml fits what it was held against.\n"
    (folder / "rules.yaml").write_text('rulebook: 1\nbased_on: base.yaml\naccounts: {sales: "4001"}\n', "utf-8")
    said = inkwell("rulebook", "check", folder / "rules.yaml", "--reference", folder / "books.json", status=5)
    assert "error: rules.yaml, line 3: account 4001 for sales is not in the books" in said
    assert "Did you mean" in said
    said = inkwell("rulebook", "check", folder / "rules.yaml", "--books", "contact-list", status=5)
    assert "these books take no invoice They take: sales order." in said


def test_what_is_no_rulebook_ends_with_status_5(folder: Path) -> None:
    """Every error with its line; a file that is none too."""
    (folder / "rules.yaml").write_text("rulebook: 1\nbased_on: base.yaml\norders:\n  becom: invoice\n", "utf-8")
    assert "rules.yaml, line 4: the key 'becom' is not known here Did you mean 'become'?" in inkwell(
        "rulebook", "check", folder / "rules.yaml", status=5
    )
    (folder / "order.json").write_text("{", "utf-8")
    (folder / "rules.yaml").write_text("rulebook: 1\nbased_on: base.yaml\n", "utf-8")
    assert "order.json is no JSON" in inkwell("plan", folder / "order.json", *known(folder), status=5)
    (folder / "order.json").write_text('{"id": "1"}', "utf-8")
    assert "order.json, /currency: Field required" in inkwell("plan", folder / "order.json", *known(folder), status=5)


def test_two_rulebooks_are_compared_in_words(folder: Path) -> None:
    """What a change really changes; a default that is written out is no change."""
    (folder / "changed.yaml").write_text(
        "rulebook: 1\nbased_on: base.yaml\n"
        "orders: {statuses: [paid, shipped], arrive: posted, only: order.total > 0}\n"
        'accounts: {sales: {default: "4000", by_country: {US: "4040"}}, tips: }\n',
        "utf-8",
    )
    assert inkwell("rulebook", "compare", folder / "rules.yaml", folder / "changed.yaml").splitlines() == [
        "orders, statuses: 'completed' was taken out.",
        "orders, statuses: 'shipped' was added.",
        "orders, only: now 'order.total > 0'; nothing was said before.",
        "accounts, sales, by country, US: now '4040'; nothing was said before.",
        "accounts, tips: no longer said; it was '4200'.",
    ]
    assert inkwell("rulebook", "compare", folder / "rules.yaml", folder / "base.yaml").splitlines() == [
        "based on: no longer said; it was 'base.yaml'.",
    ]


def test_nothing_beside_the_folder_is_read(folder: Path) -> None:
    """A rulebook builds on a file beside it, under a plain name."""
    (folder / "rules.yaml").write_text("rulebook: 1\nbased_on: ../base.yaml\n", "utf-8")
    assert "there is no rulebook '../base.yaml' to build on" in inkwell(
        "rulebook", "check", folder / "rules.yaml", status=5
    )
    assert isinstance(books(), MasterData)


LINKS = """product_id,product_code,product_name,item_id,item_code,item_name,quantity,share,linked_by
7,MW-M6,Merino six,4,YRN-MERINO,Merino yarn,6,,person
8,PATTERN,Pattern,,none,,,,person
9,'-ODD,Odd,5,BOWL-OAK,Oak bowl,1,,person
"""


def test_an_order_is_planned_with_a_table_of_links(folder: Path) -> None:
    """As it was exported: a pack is six skeins, and what has no counterpart is no question."""
    text = "rulebook: 1\nbased_on: base.yaml\nitems: {not_found: hold}\n"
    (folder / "rules.yaml").write_text(text, "utf-8")
    (folder / "links.csv").write_text(LINKS, "utf-8")
    case = {"lines": [{"sku": "mw-m6", "count": "2", "sum": "36.00", "tax": "6.00"},
                      {"sku": "PATTERN", "sum": "5.00", "class": "zero"},
                      {"sku": "-ODD", "sum": "12.00", "tax": "2.00"}]}  # fmt: skip
    (folder / "order.json").write_text(order(case).written(), "utf-8")
    assert "ITEM" not in inkwell("plan", folder / "order.json", *known(folder), "--links", folder / "links.csv")
    said = inkwell("plan", folder / "order.json", *known(folder), "--links", folder / "links.csv", "--json")
    lines = json.loads(said)[0]["documents"][0]["lines"]
    assert [(one["item"], one["quantity"]) for one in lines] == [("YRN-MERINO", "12"), ("", "1"), ("BOWL-OAK", "1")]
    held = inkwell("plan", folder / "order.json", *known(folder), status=1)
    assert "The books have no item for mw-m6" in held


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("a,b\n1,2\n", "links.csv is no table of links: it has no column item_code."),
        (LINKS.replace(",6,,", ",six,,"), "links.csv, line 2: expected quantity and share as numbers."),
    ],
)
def test_a_table_that_is_none_is_told(folder: Path, text: str, told: str) -> None:
    """With the line."""
    (folder / "rules.yaml").write_text("rulebook: 1\nbased_on: base.yaml\nitems: {}\n", "utf-8")
    (folder / "links.csv").write_text(text, "utf-8")
    said = inkwell("plan", folder / "order.json", *known(folder), "--links", folder / "links.csv", status=5)
    assert told in said


@pytest.mark.parametrize(("content", "said"), [
    (b"\xff\xfe", "is not a text file in UTF-8"),
    (b"\n{", "examples.jsonl, line 2 is no JSON"),
    (b"[1]\n", "examples.jsonl, line 1: expected an object with kind (orders or books)"),
    (b'{"kind": "orders", "document": {"id": 1}}\n', "examples.jsonl, line 1"),
    (b"\n", "None of the orders has a document in the books, so there is nothing to learn from"),
])  # fmt: skip
def test_examples_that_teach_nothing_are_named(folder: Path, content: bytes, said: str) -> None:
    """With the file and the line; nothing is written."""
    (folder / "examples.jsonl").write_bytes(content)
    rules = folder / "learnt.yaml"
    told = inkwell("rulebook", "propose", folder / "examples.jsonl", "--reference", folder / "books.json",
                   "--write", rules, status=5)  # fmt: skip
    assert said in told
    assert not rules.exists()


def test_rules_are_learnt_from_a_file_with_no_order_named(folder: Path) -> None:
    """A record that names no order is put with the one whose number it bears; one order is a rule where that is
    enough."""
    sold = order(CASES["a gift card and a card"]["order"])
    line = {"kind": "goods", "line_reference": "typed", "text": "By hand", "account": "4000", "quantity": "1",
            "unit_price": "10.00", "net": "10.00", "tax_code": "S20", "tax": "2.00"}  # fmt: skip
    document = {"role": "invoice", "external_reference": "typed", "order_number": sold.number, "date": "2026-10-05",
                "currency": "GBP", "lines": [line]}  # fmt: skip
    record = {"id": "1", "number": "SI-1", "standing": "posted", "document": document}
    lines = [{"kind": "orders", "document": sold.as_json()}, {"kind": "books", "record": record}]
    (folder / "examples.jsonl").write_text("\n".join(json.dumps(one) for one in lines), "utf-8")
    told = inkwell("rulebook", "propose", folder / "examples.jsonl", "--reference", folder / "books.json",
                   "--time-zone", "Europe/London", "--country", "GB")  # fmt: skip
    assert "The rules explain 1 of 1 orders." in told
    assert "/tax_codes/by_class/standard" in told
