"""Links: certain ones by rule, doubtful ones by a person, their table, and taking back."""

from __future__ import annotations

import csv
import io
import zipfile
from concurrent.futures import ThreadPoolExecutor
from decimal import Decimal
from typing import Any

import pytest
from openpyxl import Workbook, load_workbook

from inkwell_bridge.client import ApiError, Conflict, Invalid, LinkCalls
from inkwell_bridge.client.models import LinkTarget
from inkwell_bridge.demo import month
from tests.support.ends import CUSTOMER, PRODUCT
from tests.support.world import BRIDGE, LONG, World, shop_order, wait_for

ARTICLES = [
    {"code": "YRN-MER4-HEA", "name": "Merino 4-ply skein, Heather", "barcode": "5012345678900"},
    {"code": "NDL-BAM-40", "name": "Bamboo needles, 4.0 mm"},
    {"code": "BWL-ASH", "name": "Ash yarn bowl"},
    {"code": "BWL-OAK", "name": "Oak yarn bowl"},
    {"code": "DYE-MAD", "name": "Madder dye powder", "barcode": "5012345678917"},
]


def product(number: int, reference: str, title: str, **fields: Any) -> dict[str, Any]:
    """A product of the shop that is no kit and no pack."""
    return {**PRODUCT, "id": number, "reference": reference, "title": title, "barcode": "", "pack": "1",
            "contents": [], **fields}  # fmt: skip


SOLD = [
    product(31, "yrn-mer4-hea ", "Merino skein"),
    product(32, "MADDER", "Madder, 50 g", barcode="5012345678917"),
    product(33, "BOWL-ASH", "Yarn bowl, ash"),
    product(34, "STARTER", "Starter box", contents=[{"article": "YRN-MER4-HEA", "count": "2", "part": "30.00"},
                                                     {"article": "NDL-BAM-40", "count": "1", "part": "6.49"}]),
    product(35, "NDL-40-6", "Bamboo needles 4.0 mm, box of six", pack="6"),
    product(36, "GIFT", "Gift card"),
]  # fmt: skip


@pytest.fixture
def shop(world: World) -> World:
    """Six products at the shop, five articles in the books."""
    world.put("erp", articles=ARTICLES)
    world.put("web-shop", products=SOLD)
    world.matched("products")
    return world


@pytest.fixture
def links(shop: World) -> LinkCalls:
    """The products' links."""
    return shop.calls.bridge(BRIDGE).links("products")


def linked(links: LinkCalls) -> dict[str, list[tuple[str, Decimal, str]]]:
    """What each product leads to: code, quantity, and how it came about."""
    return {one.source_id: [(part.code, part.quantity, part.rule) for part in one.links] for one in links.all()}


def target(links: LinkCalls, code: str) -> str:
    """The books' id of an article, as a suggestion or the table tells it."""
    table = [row for row in rows(links) if row["item_code"] == code]
    return table[0]["item_id"] if table else str([one["code"] for one in ARTICLES].index(code) + 1)


def rows(links: LinkCalls) -> list[dict[str, str]]:
    """The table as it is exported."""
    return list(csv.DictReader(io.StringIO(links.table().decode())))


def test_certain_ones_are_taken(links: LinkCalls) -> None:
    """By code, whatever its case, and by barcode; the others are left to a person."""
    found = linked(links)
    assert found["31"] == [("YRN-MER4-HEA", 1, "code")]
    assert found["32"] == [("DYE-MAD", 1, "barcode")]
    assert [key for key, parts in found.items() if not parts] == ["33", "36", "35", "34"]
    counts = links.counts()
    assert (counts.linked, counts.none, counts.open) == (2, 0, 4)


def test_doubtful_ones_are_offered_side_by_side(links: LinkCalls) -> None:
    """The likeliest first, with points and the reason; a kit with all its parts, a pack with its factor."""
    asked = {one.entry.code: one for one in links.questions()}
    assert list(asked) == ["BOWL-ASH", "STARTER", "NDL-40-6", "GIFT"]
    bowl = asked["BOWL-ASH"].suggestions
    assert [part.code for one in bowl[:2] for part in one.targets] == ["BWL-ASH", "BWL-OAK"]
    assert bowl[0].points > bowl[1].points
    assert bowl[0].reason.startswith("names alike by 100, codes alike by ")
    kit = asked["STARTER"].suggestions[0]
    assert [(part.code, part.quantity, part.share) for part in kit.targets] == [
        ("YRN-MER4-HEA", 2, 30), ("NDL-BAM-40", 1, Decimal("6.49")),
    ]  # fmt: skip
    assert (kit.points, kit.reason) == (100, "a kit, all of whose parts are items")
    pack = asked["NDL-40-6"].suggestions[0]
    assert [(part.code, part.quantity) for part in pack.targets] == [("NDL-BAM-40", 6)]
    assert pack.reason.endswith("a pack of 6")


def test_yes_no_another_and_back(links: LinkCalls) -> None:
    """Each answer is a change; taking it back leaves what stood before."""
    bowl = {one.entry.code: one for one in links.questions()}["BOWL-ASH"].suggestions[0].targets[0]
    links.answer("33", bowl.id)
    links.answer("36")
    links.answer("33", target(links, "BWL-OAK"))
    assert linked(links)["33"] == [("BWL-OAK", 1, "person")]
    assert (links.counts().linked, links.counts().none, links.counts().open) == (3, 1, 2)
    assert links.undo().what == "undone"
    assert linked(links)["33"] == [("BWL-ASH", 1, "person")]
    links.undo()
    assert links.counts().none == 0
    links.undo()
    assert linked(links)["33"] == []
    with pytest.raises(Conflict, match="no answer and no import that could be taken back"):
        links.undo()
    assert [one.what for one in links.changes()][:7] == ["undone"] * 3 + ["answered"] * 3 + ["matched"]


def test_an_earlier_change_is_not_taken_back_from_under_a_later_one(links: LinkCalls) -> None:
    """The later one first."""
    first = links.answer("33", target(links, "BWL-ASH"))
    links.answer("33", target(links, "BWL-OAK"))
    with pytest.raises(Conflict, match="changed again since"):
        links.undo(first.id)


def test_the_same_answer_again_changes_nothing(links: LinkCalls) -> None:
    """Pressed twice, it is one change."""
    first = links.answer("33", target(links, "BWL-ASH"))
    assert links.answer("33", target(links, "BWL-ASH")).id == first.id


@pytest.mark.parametrize(
    ("answer", "said"),
    [
        ({"key": "33", "targets": [{"id": "777"}]}, "Marrowby UK books has none with the id or code '777'."),
        ({"key": "999", "none": True}, "Marrowby web shop has none with the id or code '999'."),
        ({"key": "33"}, "Expected either targets, or none: true."),
        ({"key": "33", "targets": [{"id": "1"}], "none": True}, "Expected either targets, or none: true."),
        ({"key": "33", "targets": [{"id": "1"}, {"id": "1"}]}, "named twice"),
        ({"key": "33", "targets": [{"id": "1", "quantity": "0"}]}, "quantity"),
    ],
)
def test_a_wrong_answer_changes_nothing(links: LinkCalls, answer: dict[str, Any], said: str) -> None:
    """Nor does any of those sent with it."""
    with pytest.raises(Invalid) as caught:
        links.answer_all([{"key": "36", "none": True}, answer])
    assert said in str([one.detail for one in caught.value.problem.errors])
    assert links.counts().none == 0


def test_what_has_no_counterpart_is_made_in_the_books(shop: World, links: LinkCalls) -> None:
    """Once, with its code and name; asked twice, it is the same one."""
    links.create("36")
    links.create("36")
    made = [one for one in shop.books()["article"] if one["code"] == "GIFT"]
    assert [one["name"] for one in made] == ["Gift card"]
    assert linked(links)["36"] == [("GIFT", 1, "made in the books")]


@pytest.mark.parametrize("kind", ["silent", "late"])
def test_what_may_have_been_made_is_not_made_twice(shop: World, links: LinkCalls, kind: str) -> None:
    """No answer came: it says so, and looks first once the slowest answer could have come."""
    shop.misbehave("erp", {"call": "articles.create", "kind": kind, "seconds": 1.0})
    with pytest.raises(Conflict, match="is not known yet"):
        links.create("36")
    if kind == "late":
        with pytest.raises(Conflict, match="is not known yet; try again in a minute"):
            links.create("36")

    def made() -> list[Any] | None:
        return [one for one in shop.books()["article"] if one["code"] == "GIFT"] or None

    assert len(wait_for(made, seconds=10, what="the article")) == 1
    links.create("36")
    assert len(made() or []) == 1


def test_what_lost_its_item_is_asked_again(shop: World, links: LinkCalls) -> None:
    """The link stays in the history."""
    assert linked(links)["32"]
    shop.put("erp", reset=True)
    shop.change_books()
    shop.put("erp", articles=[one for one in ARTICLES if one["code"] != "DYE-MAD"])
    shop.matched("products")
    assert linked(links)["32"] == []
    assert "MADDER" in [one.entry.code for one in links.questions()]
    assert "gone from the books" in next(iter(links.changes())).text


def table(head: list[str], *body: list[Any]) -> bytes:
    """A CSV file."""
    buffer = io.StringIO()
    csv.writer(buffer).writerows([head, *body])
    return buffer.getvalue().encode()


HEAD = ["product_id", "product_code", "item_id", "item_code", "quantity", "share"]


def test_a_table_goes_out_and_comes_back(links: LinkCalls) -> None:
    """What was exported changes nothing; filled in, it says what it would change before it does."""
    same = links.take_in("links.csv", links.table())
    assert (same.rows, same.unchanged, same.unanswered, same.added, same.bad) == (6, 2, 4, 0, [])
    content = table(HEAD, ["", "BOWL-ASH", "", "BWL-ASH", "", ""], ["34", "", "", "YRN-MER4-HEA", "2", "30"],
                    ["34", "", "", "NDL-BAM-40", "1", "6.49"], ["", "GIFT", "", "none", "", ""],
                    ["32", "", "", "BWL-OAK", "1", ""])  # fmt: skip
    preview = links.take_in("links.csv", content)
    assert (preview.added, preview.changed, preview.applied) == (3, 1, False)
    assert links.counts().open == 4
    done = links.take_in("links.csv", content, apply=True)
    assert done.applied
    assert linked(links)["34"] == [("YRN-MER4-HEA", 2, "import"), ("NDL-BAM-40", 1, "import")]
    assert links.counts().none == 1
    links.undo(done.change)
    assert links.counts().open == 4


BAD = [
    (["999", "", "", "BWL-ASH", "", ""], "product_id", "there is no product with the id '999'"),
    (["", "NO-SUCH", "", "BWL-ASH", "", ""], "product_code", "there is no product with the code 'NO-SUCH'"),
    (["36", "", "777", "", "", ""], "item_id", "there is no item with the id '777'"),
    (["36", "", "", "BWL", "", ""], "item_code", "there is no item with the code 'BWL'"),
    (["36", "", "", "BWL-ASH", "six", ""], "quantity", "got 'six'"),
    (["36", "", "", "BWL-ASH", "0", ""], "quantity", "got '0'"),
    (["36", "", "", "BWL-ASH", "1e99", ""], "quantity", "got '1e99'"),
    (["36", "", "", "BWL-ASH", "NaN", ""], "quantity", "got 'NaN'"),
    (["36", "", "", "BWL-ASH", "1", "-2"], "share", "got '-2'"),
    (["36", "", "", "BWL-ASH", "0.0000001", ""], "quantity", "at most six decimals"),
]


@pytest.mark.parametrize(("row", "column", "text"), BAD)
def test_a_bad_row_is_named_and_the_rest_goes_in(links: LinkCalls, row: list[str], column: str, text: str) -> None:
    """By its number in the file, its column, and what was expected."""
    content = table(HEAD, ["", "BOWL-ASH", "", "BWL-ASH", "", ""], row)
    done = links.take_in("links.csv", content, apply=True)
    assert [(bad.row, bad.column) for bad in done.bad] == [(3, column)]
    assert text in done.bad[0].text
    assert linked(links)["33"] == [("BWL-ASH", 1, "import")]
    assert linked(links)["36"] == []


def test_half_a_kit_is_not_taken(links: LinkCalls) -> None:
    """One bad row spoils those of the same product, and of no other."""
    content = table(HEAD, ["34", "", "", "YRN-MER4-HEA", "2", ""], ["34", "", "", "NO-SUCH", "1", ""],
                    ["33", "", "", "BWL-ASH", "", ""], ["33", "", "", "BWL-ASH", "2", ""])  # fmt: skip
    done = links.take_in("links.csv", content, apply=True)
    assert [(bad.row, bad.text) for bad in done.bad] == [
        (3, "there is no item with the code 'NO-SUCH'"), (5, "an earlier row says this already"),
    ]  # fmt: skip
    assert (linked(links)["34"], linked(links)["33"]) == ([], [])


def test_a_workbook_goes_out_and_comes_back(links: LinkCalls) -> None:
    """The same table as XLSX; numbers in it are taken as they are meant."""
    sheet = load_workbook(io.BytesIO(links.table("xlsx"))).active
    assert [cell.value for cell in sheet[1]] == [
        "product_id", "product_code", "product_name", "item_id", "item_code", "item_name", "quantity", "share",
        "linked_by",
    ]  # fmt: skip
    assert sheet.max_row == 7
    book = Workbook()
    book.active.append(HEAD)
    book.active.append([35, None, None, "NDL-BAM-40", 6, None])
    file = io.BytesIO()
    book.save(file)
    assert links.take_in("links.xlsx", file.getvalue(), apply=True).added == 1
    assert linked(links)["35"] == [("NDL-BAM-40", 6, "import")]


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("a.csv", b"", "is empty"),
        ("a.csv", b"colour,size\nred,1\n", "Row 1 must name the columns"),
        ("a.csv", b"\xff\xfe\x00", "no text in UTF-8"),
        ("a.csv", b'product_id,item_id\n"unended', "no CSV"),
        ("a.xlsx", b"PK\x03\x04 nothing", "no workbook"),
        ("a.csv", b"product_id,item_id\n" + b"x" * 10_000_001, "At most 10,000,000 bytes"),
    ],
)
def test_what_is_no_table_is_refused(links: LinkCalls, name: str, content: bytes, said: str) -> None:
    """With what was expected; nothing is changed."""
    with pytest.raises(ApiError, match=said):
        links.take_in(name, content, apply=True)
    assert links.counts().open == 4


def test_a_cell_is_no_formula_and_comes_back_as_it_was(shop: World, links: LinkCalls) -> None:
    """A name that begins with = is a text in every spreadsheet, and the table can be brought back."""
    odd = product(38, "ODD-\x02", "bowl;=1+1\t+2\x07")
    shop.put("web-shop", products=[product(37, "=1+1", "=HYPERLINK(1)"), odd])
    shop.loaded("web-shop", "products")
    text = links.table().decode()
    assert '"37","\'=1+1","\'=HYPERLINK(1)",' in text
    # In quotes, so that no other mark ends a cell; and no control character, which no workbook can hold.
    assert '"ODD-\ufffd","bowl;=1+1\t+2\ufffd",' in text
    sheet = load_workbook(io.BytesIO(links.table("xlsx"))).active
    assert ("=1+1", "s") in [(cell.value, cell.data_type) for row in sheet.iter_rows() for cell in row]
    assert links.take_in("links.csv", text.encode()).bad == []


def test_many_rows_with_fifty_bad_ones(world: World) -> None:
    """Fifty named, the rest in; twenty thousand in the long form."""
    number = 20_000 if LONG else 2_000
    for start in range(0, number, 2_000):
        some = range(start, start + 2_000)
        world.put("erp", articles=[{"code": f"I-{one}", "name": f"Item {one}"} for one in some])
        world.put("web-shop", products=[product(one + 1, f"P-{one}", f"Product {one}") for one in some])
    world.loaded("web-shop", "products", seconds=120)
    world.loaded("uk-books", "items", seconds=120)
    links = world.calls.bridge(BRIDGE).links("products")
    bad = set(range(0, number, number // 50))
    body = [["", f"P-{one}", "", f"NO-{one}" if one in bad else f"I-{one}", "", ""] for one in range(number)]
    done = links.take_in("links.csv", table(HEAD, *body), apply=True)
    assert [row.row for row in done.bad] == [one + 2 for one in sorted(bad)]
    assert {row.text for row in done.bad} == {f"there is no item with the code 'NO-{one}'" for one in bad}
    assert (done.rows, done.added) == (number, number - 50)
    assert (links.counts().linked, links.counts().open) == (number - 50, 50)


def test_customers_are_linked_by_what_tells_them_apart(world: World) -> None:
    """E-mail, tax number, name with postcode; two with one e-mail are a question."""
    address = {"lines": ["1 Fen Lane"], "town": "Ely", "postcode": "CB7 4AB", "country": "GB"}
    world.put("erp", contacts=[
        {"code": "", "name": "Aoife O'Driscoll", "email": "AOIFE@thimble.example"},
        {"code": "", "name": "Knit Ltd", "email": "", "tax_number": "GB123456789"},
        {"code": "", "name": "zoe brule", "email": "", "billing": address},
        {"code": "C-0002", "name": "Ottilie Marsh", "email": "ottilie@twomarsh.example"},
        {"code": "C-0003", "name": "O. Marsh", "email": "ottilie@twomarsh.example"},
    ])  # fmt: skip
    shopper = {**CUSTOMER, "first_name": "", "last_name": ""}
    world.put("web-shop", customers=[
        CUSTOMER,
        {**shopper, "id": 913, "reference": "C-913", "email": "buy@knit.example", "company": "Knit",
         "tax_number": "GB 123 456 789"},
        {**shopper, "id": 914, "reference": "C-914", "email": "z@x.example", "last_name": "Zoë Brûlé",
         "bill_to": address},
        {**shopper, "id": 915, "reference": "C-915", "email": "Ottilie@twomarsh.example", "last_name": "Ottilie Marsh"},
    ])  # fmt: skip
    world.matched("customers")
    links = world.calls.bridge(BRIDGE).links("customers")
    assert {one.source_id: [part.rule for part in one.links] for one in links.all()} == {
        "912": ["e-mail"], "913": ["tax number"], "914": ["name and postcode"], "915": [],
    }  # fmt: skip
    (question,) = links.questions()
    assert [(one.targets[0].code, one.reason.startswith("same e-mail")) for one in question.suggestions[:2]] == [
        ("C-0002", True), ("C-0003", True),
    ]  # fmt: skip


def test_a_linked_customers_order_goes_to_the_linked_contact(world: World) -> None:
    """Also where the e-mail would find two."""
    world.put("erp", contacts=[{"code": "C-0002", "name": "Ottilie", "email": "o@m.example"},
                               {"code": "C-0003", "name": "O. Marsh", "email": "o@m.example"}])  # fmt: skip
    world.put("web-shop", customers=[{**CUSTOMER, "id": 915, "reference": "C-915", "email": "o@m.example"}])
    world.loaded("web-shop", "customers")
    world.loaded("uk-books", "contacts")
    order = shop_order("MW-10003")
    order["shopper"] = {**order["shopper"], "account": 915, "email": "o@m.example"}
    world.put_orders(order, reset=True)
    world.put("web-shop", customers=[{**CUSTOMER, "id": 915, "reference": "C-915", "email": "o@m.example"}])
    assert world.run().counts.held == 1
    links = world.calls.bridge(BRIDGE).links("customers")
    wanted = next(one for one in world.calls.connection("uk-books").names("contacts") if one.code == "C-0003")
    links.answer("915", wanted.source_id)
    world.calls.release(cause="customer-unclear")
    world.settled()
    assert [invoice["contact"] for invoice in world.invoices()] == [int(wanted.source_id)]


def test_a_guest_is_the_linked_customer_with_that_email(world: World) -> None:
    """However it is written; where customers with it lead to different contacts, it says nothing."""
    world.put("erp", contacts=[{"code": "C-0002", "name": "Ottilie", "email": "old@m.example"}])
    twice = [{**CUSTOMER, "id": number, "reference": f"C-{number}", "email": "o@m.example"} for number in (915, 916)]
    order, second = shop_order("MW-10003"), shop_order("MW-10005")
    guest = {**order["shopper"], "account": None, "email": " O@M.example "}
    world.put_orders({**order, "shopper": guest}, reset=True)
    world.put("web-shop", customers=twice)
    world.loaded("web-shop", "customers")
    world.loaded("uk-books", "contacts")
    links = world.calls.bridge(BRIDGE).links("customers")
    links.answer("C-915", "C-0002")
    assert world.run().counts.carried == 1
    contacts = {one["id"]: one["code"] for one in world.books()["contact"]}
    assert [contacts[invoice["contact"]] for invoice in world.invoices()] == ["C-0002"]
    # The other account of that e-mail is somebody else: a new guest is looked for in the books, and made there.
    other = next(one for one in world.calls.connection("uk-books").names("contacts") if one.code == "WEB-GUEST")
    links.answer("C-916", other.source_id)
    world.put_orders({**second, "shopper": guest})
    assert world.run().counts.carried == 1
    contacts = {one["id"]: one["code"] for one in world.books()["contact"]}
    assert {contacts[invoice["contact"]] for invoice in world.invoices()} == {"C-0002", ""}


def test_what_was_loaded_before_the_bridge_is_linked_when_it_is_laid(world: World) -> None:
    """Nobody has to load again."""
    world.put("erp", articles=ARTICLES)
    world.put("web-shop", products=SOLD)
    world.calls.bridge(BRIDGE).remove(confirm=True)
    world.loaded("web-shop", "products")
    world.loaded("uk-books", "items")
    world.calls.create_bridge(slug="again", name="Again", source="web-shop", books="uk-books", company="marrowby-uk")
    links = world.calls.bridge("again").links("products")
    wait_for(lambda: links.counts().linked or None, seconds=20, what="the matching")


def test_the_demos_customers_are_those_of_its_orders() -> None:
    """An order's account is a customer of the shop, with the same e-mail."""
    shop = month.web_shop()
    emails = {customer["id"]: customer["email"] for customer in shop["customers"]}
    assert len(emails) == len(shop["customers"])
    known = [order["shopper"] for order in shop["orders"] if order["shopper"]["account"] in emails]
    assert len(known) > 100
    assert all(emails[shopper["account"]] == shopper["email"] for shopper in known)


def test_targets_are_told_as_exact_numbers(links: LinkCalls) -> None:
    """Amounts and factors never pass through a binary fraction."""
    links.answer("35", (target(links, "NDL-BAM-40"), Decimal("0.1")))
    (row,) = [one for one in links.all() if one.source_id == "35"]
    assert row.links == [LinkTarget(id=row.links[0].id, code="NDL-BAM-40", quantity=Decimal("0.1"), share=None,
                                    rule="person")]  # fmt: skip


def test_two_who_answer_at_once_leave_one_answer(links: LinkCalls) -> None:
    """The later one stands, the earlier in the history; nothing is linked twice."""
    ash, oak = target(links, "BWL-ASH"), target(links, "BWL-OAK")
    with ThreadPoolExecutor(8) as threads:
        changes = list(threads.map(lambda place: links.answer("33", (ash, oak)[place % 2]), range(16)))
    (row,) = [one for one in links.all() if one.source_id == "33"]
    assert [part.id for part in row.links] in ([ash], [oak])
    assert len({change.id for change in changes}) >= 2


def test_two_who_take_in_the_same_table_at_once_change_it_once(links: LinkCalls) -> None:
    """The second finds it as it wants it."""
    content = table(HEAD, ["", "BOWL-ASH", "", "BWL-ASH", "", ""], ["", "GIFT", "", "none", "", ""])
    with ThreadPoolExecutor(4) as threads:
        done = list(threads.map(lambda _: links.take_in("links.csv", content, apply=True), range(4)))
    assert len([one.change for one in done if one.change]) == 1
    assert (links.counts().linked, links.counts().none) == (3, 1)


def test_a_workbook_that_unpacks_to_too_much_is_refused(links: LinkCalls) -> None:
    """Before it is unpacked."""
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b"0" * 201_000_000)
    assert len(file.getvalue()) < 1_000_000
    with pytest.raises(ApiError, match="unpacks to more than is read"):
        links.take_in("links.xlsx", file.getvalue())


def test_a_workbook_with_entities_is_refused(links: LinkCalls) -> None:
    """Nothing in it is resolved."""
    book = Workbook()
    book.active.append(HEAD)
    file = io.BytesIO()
    book.save(file)
    evil = io.BytesIO()
    with zipfile.ZipFile(file) as old, zipfile.ZipFile(evil, "w") as new:
        for part in old.infolist():
            content = old.read(part)
            if part.filename.endswith("sheet1.xml"):
                head = b'<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>'
                content = content.replace(b"<worksheet", head + b"<worksheet", 1)
            new.writestr(part, content)
    with pytest.raises(ApiError, match="brings a document type"):
        links.take_in("links.xlsx", evil.getvalue())


@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_a_csv_of_any_spreadsheet_is_read(links: LinkCalls, delimiter: str) -> None:
    """With commas, semicolons or tabs, with the mark that some put in front, with columns in any order."""
    lines = [["item_code", "product_code", "share"], ["BWL-ASH", "BOWL-ASH", ""]]
    content = "\ufeff" + "\r\n".join(delimiter.join(line) for line in lines) + "\r\n\r\n"
    assert links.take_in("links.csv", content.encode(), apply=True).added == 1


def test_the_table_is_searched_and_narrowed(links: LinkCalls) -> None:
    """By words and by state."""
    assert [one.code for one in links.all(state="open")] == ["BOWL-ASH", "GIFT", "NDL-40-6", "STARTER"]
    assert [one.code for one in links.all(state="linked")] == ["MADDER", "yrn-mer4-hea "]
    assert [one.code for one in links.all(q="box starter")] == ["STARTER"]
    assert [one.entry.code for one in links.questions(q="needles")] == ["NDL-40-6"]
    first = links.questions(limit=1)[0].entry
    assert [one.entry.code for one in links.questions(after=first.id)] == ["STARTER", "NDL-40-6", "GIFT"]


def test_customers_are_made_in_the_books_once(world: World) -> None:
    """With their addresses, as an order of theirs would make them."""
    world.put("web-shop", customers=[CUSTOMER])
    world.loaded("web-shop", "customers")
    world.loaded("uk-books", "contacts")
    links = world.calls.bridge(BRIDGE).links("customers")
    links.create("912")
    links.create("912")
    made = [one for one in world.books()["contact"] if one["email"] == "aoife@thimble.example"]
    assert [one["name"] for one in made] == ["Aoife O'Driscoll"]
    (row,) = links.all()
    assert [part.rule for part in row.links] == ["made in the books"]
