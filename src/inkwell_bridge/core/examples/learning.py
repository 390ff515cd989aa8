"""From what the examples say to the rules that say the same: for each rule the choice that most of them bear out."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from itertools import combinations
from typing import Any, NamedTuple

from inkwell_bridge.core.books import MasterData, Standing
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.examples.decision_list import Clause, DecisionList, Form, Observation, learn
from inkwell_bridge.core.examples.example import Example
from inkwell_bridge.core.examples.observing import LEARNT_BY, MOMENTS, Observed
from inkwell_bridge.core.examples.skeleton import Structure
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES, MONEY_TYPES
from inkwell_bridge.core.rulebook.money import PRECEDENCE as TENDER_PRECEDENCE

# What rules for whole orders are tried with, and how each is asked for in an expression.
_OF_ORDERS = {
    "customer_group": "order.customer_group",
    "channel": "order.channel",
    "currency": "order.currency",
    "country": "order.country",
    "location": "order.location",
    "payment_terms": "order.payment_terms",
    "shipping_method": "order.shipping_method",
}
_OF_LINES = {
    "channel": "order.channel",
    "country": "order.country",
    "customer_group": "order.customer_group",
    "currency": "order.currency",
    "location": "line.location",
    "product_type": "line.product_type",
    "tax_class": "line.tax_class",
    "product": "line.sku",
}
# Of two that explain as much, the later goes before: a treatment says more of a tax than a country does.
_TAXED_BY = ("nature", "tax_class", "country", "treatment")


_UNPROVED = "that no fewer rules would do is not proved"


class Learnt(NamedTuple):
    """One rule: the keys that lead to it, its value, and how many examples speak for and against it.

    Without ``supported`` it is no example that speaks for it, and ``note`` says what does. A value that stays open has
    ``value`` None, and ``note`` says why.
    """

    at: tuple[str, ...]
    value: Any
    supported: int | None = None
    contradicted: int = 0
    note: str = ""

    @property
    def pointer(self) -> str:
        """Where it stands in the rulebook (JSON Pointer)."""
        return "".join(f"/{escaped(part)}" for part in self.at)


def rules_of(
    observed: Observed, examples: Sequence[Example], books: MasterData, structure: Structure, least: int
) -> list[Learnt]:
    """The rules that explain what was observed, section by section."""
    return [
        *_orders(observed, examples, books, structure, least),
        *_customers(examples),
        *_items(observed),
        *_accounts(observed, books, least),
        *_tax_codes(observed, examples, books, structure, least),
        *_payments(observed, books, least),
        *_fields(observed),
        *_dimensions(observed, books),
        *_warehouses(observed),
    ]


def _orders(
    observed: Observed, examples: Sequence[Example], books: MasterData, structure: Structure, least: int
) -> Iterator[Learnt]:
    form = Form(tuple((name,) for name in _OF_ORDERS))
    become = learn(observed.roles, form, least=least)
    if become.default is not None:
        yield _learnt(("orders", "become"), become.default)
    standing = Counter(example.records[0].standing for example in examples if example.records)
    drafts = standing[Standing.DRAFT]
    arrive = "draft" if drafts > standing[Standing.POSTED] else "posted"
    most = max(drafts, standing[Standing.POSTED])
    yield Learnt(("orders", "arrive"), arrive, most, standing.total() - most)
    for place, clause in enumerate(become.clauses):
        value = {"name": _named(clause), "when": _condition(clause), "become": clause.answer}
        yield _learnt(("orders", "instead", str(place)), clause, value)
    yield from _crossing(observed, least)
    if any(example.sale and example.sale.currency != books.currency for example in examples):
        foreign = _having(examples, lambda order: order.currency != books.currency)
        yield Learnt(("orders", "currencies"), "kept", foreign)
    yield from _dates(observed)
    if observed.numbered_by_shop * 2 > max(observed.numbered, 1):
        others = observed.numbered - observed.numbered_by_shop
        yield Learnt(("orders", "numbered"), "shop", observed.numbered_by_shop, others)
    if structure.discounts == "own lines":
        discounted = _having(examples, lambda order: bool(order.discounts or any(one.discount for one in order.lines)))
        yield Learnt(("orders", "discounts"), structure.discounts, discounted)


def _having(examples: Sequence[Example], has: Callable[[Order], bool]) -> int:
    """How many orders that the books hold have something."""
    return sum(1 for example in examples if example.sale and has(example.order))


def _crossing(observed: Observed, least: int) -> Iterator[Learnt]:
    """Which orders have anything in the books: by their status first, then by whatever else tells them apart."""
    having: dict[str, Counter[str]] = {}
    for one in observed.statuses:
        having.setdefault(one.facts["status"], Counter())[one.answer] += 1
    crossing = sorted(status for status, counts in having.items() if counts["yes"] > counts["no"])
    if not crossing:
        return
    yes = sum(having[status]["yes"] for status in crossing)
    no = sum(having[status]["no"] for status in crossing)
    without = sorted(set(having) - set(crossing))
    note = f"nothing in the books for: {', '.join(without)}" if without else ""
    yield Learnt(("orders", "statuses"), crossing, yes, no, note)
    among = [one for one in observed.statuses if one.facts["status"] in crossing]
    left_out = learn(among, Form(tuple((name,) for name in _OF_ORDERS)), least=least)
    if left_out.default is not None and left_out.default.answer == "no":
        # Few kinds of orders have anything there: it is shorter to say which.
        some = [clause for clause in left_out.clauses if clause.answer == "yes"]
        supported, contradicted = (sum(getattr(one, name) for one in some) for name in ("supported", "contradicted"))
        conditions = [_condition(clause) for clause in some]
        only = conditions[0] if len(conditions) == 1 else {"any": conditions}
        yield Learnt(("orders", "only"), only, supported, contradicted)
    none = [clause for clause in left_out.clauses if clause.answer == "no"]
    for place, clause in enumerate(none):
        value = {"name": _named(clause), "when": _condition(clause)}
        yield _learnt(("orders", "leave_out", str(place)), clause, value)


def _dates(observed: Observed) -> Iterator[Learnt]:
    """Whose day the document bears, and whose its tax; and when it is due."""
    if observed.days:
        yield _moment(("orders", "dated"), observed.days)
    # A tax point of its own on few documents is no rule for all of them.
    if 2 * len(observed.tax_points) > len(observed.days):
        yield _moment(("orders", "tax_point"), observed.tax_points)
    if observed.due and not observed.headers.get("terms"):
        days, count = Counter(observed.due).most_common(1)[0]
        if 2 * count > len(observed.days) and days >= 0:
            yield Learnt(("orders", "due_after_days"), days, count, len(observed.due) - count)


def _moment(at: tuple[str, ...], days: Sequence[frozenset[str]]) -> Learnt:
    counts = Counter(name for found in days for name in found)
    best = max(MOMENTS, key=lambda name: counts[name])
    return Learnt(at, best, counts[best], len(days) - counts[best])


def _customers(examples: Sequence[Example]) -> Iterator[Learnt]:
    """Whether all orders, or those of guests, stand on one contact; whom else the books know is found as they go."""
    sold = [example for example in examples if example.sale and example.contact]
    guests = [one for one in sold if one.order.buyer and one.order.buyer.email and not one.order.buyer.account_id]
    yield Learnt(("customers", "find_by"), "email", note="no example tells it")
    yield Learnt(("customers", "not_found"), "create", note="no example tells it")
    for whose, some in (("everybody", sold), ("guests", guests)):
        codes = Counter(example.contact for example in some)
        if codes and len(some) > 1:
            code, count = codes.most_common(1)[0]
            if count * 10 >= len(some) * 9:
                yield Learnt(("customers", "house"), code, count, len(some) - count)
                yield Learnt(("customers", "house_for"), whose, count, len(some) - count)
                return
    nameless = [one.contact for one in sold if not one.order.buyer or not one.order.buyer.email]
    if nameless:
        code, count = Counter(nameless).most_common(1)[0]
        yield Learnt(("customers", "without_email"), code, count, len(nameless) - count)
    else:
        yield Learnt(("customers", "without_email"), None, note="until then buyers without an e-mail are held")


def _items(observed: Observed) -> Iterator[Learnt]:
    on_items = [one for one in observed.items if one.answer]
    if 2 * len(on_items) <= len(observed.items):
        return
    by_code = sum(1 for one in on_items if one.answer.casefold() == one.facts["sku"].casefold())
    if 2 * by_code > len(on_items):
        yield Learnt(("items", "find_by"), ["sku", "barcode", "link"], by_code, len(observed.items) - by_code)
    else:
        yield Learnt(("items", "find_by"), ["link", "barcode", "sku"], len(on_items), note="link the products")
    yield Learnt(("items", "not_found"), "text line", note="no example tells it")


def _accounts(observed: Observed, books: MasterData, least: int) -> Iterator[Learnt]:
    form = Form(tuple((name,) for name in LEARNT_BY))
    types = {account.code: account.type for account in books.accounts}
    for role in ALLOWED_TYPES:
        every = observed.accounts.get(role, [])
        # On an account that the role may not use a mistake stands, whatever else it explains.
        right = [one for one in every if types.get(one.answer) in ALLOWED_TYPES[role]]
        if not right:
            if every:
                found = ", ".join(sorted({one.answer for one in every})[:5])
                yield Learnt(("accounts", role), None, note=f"on {found}, of a type that {role} may not use")
            else:
                yield Learnt(("accounts", role), None, note="no example")
            continue
        # Taxes and rounding come of no article.
        accounts = learn(right, Form(()) if role in {"tax", "rounding"} else form, least=least)
        yield from _noted(_account(role, accounts), accounts)


def _account(role: str, found: DecisionList) -> Iterator[Learnt]:
    assert found.default is not None, "the form has a default"
    if not found.clauses:
        yield _learnt(("accounts", role), found.default)
        return
    yield _learnt(("accounts", role, "default"), found.default)
    for clause in found.clauses:
        ((name, value),) = clause.conditions
        yield _learnt(("accounts", role, f"by_{name}", value), clause)


def _tax_codes(
    observed: Observed, examples: Sequence[Example], books: MasterData, structure: Structure, least: int
) -> Iterator[Learnt]:
    known = {code.code for code in books.tax_codes}
    right = [one for one in observed.tax_codes if one.answer in known]
    found = learn(right, Form(tuple(_tax_tables(right)), last="tax_class"), least=least)
    yield from _noted(_coded(found, examples), found)
    outside = Counter(one.answer for one in observed.outside if one.answer in known)
    if outside:
        code, count = outside.most_common(1)[0]
        yield Learnt(("tax_codes", "outside"), code, count, outside.total() - count)
    else:
        yield Learnt(("tax_codes", "outside"), None, note="no example")
    if structure.carry != "on lines":
        yield Learnt(("tax_codes", "carry"), structure.carry, _having(examples, lambda order: bool(order.tax_total)))
    if structure.as_lines:
        of_class = _having(examples, lambda order: any(one.tax_class in structure.as_lines for one in order.charges))
        yield Learnt(("tax_codes", "as_lines"), list(structure.as_lines), of_class)
    kept = _having(examples, lambda order: any(tax.kept for charge in order.charges for tax in charge.taxes))
    if kept:
        yield Learnt(("tax_codes", "kept"), "leave out", kept)


def _coded(found: DecisionList, examples: Sequence[Example]) -> Iterator[Learnt]:
    """The codes by class, and the exceptions that go before them."""
    classes = {clause.conditions[0][1] for clause in found.clauses if _is_class(clause)}
    for clause in found.clauses:
        if _is_class(clause):
            yield _learnt(("tax_codes", "by_class", clause.conditions[0][1]), clause)
    for name in sorted({one.tax_class for example in examples for one in example.order.charges} - {"", *classes}):
        yield Learnt(("tax_codes", "by_class", name), None, note="no example")
    exceptions = [clause for clause in found.clauses if not _is_class(clause)]
    for place, clause in enumerate(exceptions):
        value = dict(clause.conditions) | {"code": clause.answer}
        yield _learnt(("tax_codes", "exceptions", str(place)), clause, value)


def _is_class(clause: Clause) -> bool:
    return len(clause.conditions) == 1 and clause.conditions[0][0] == "tax_class"


def _tax_tables(observations: Sequence[Observation]) -> Iterator[tuple[str, ...]]:
    """What an exception may hang on: the most facts first, for that is how they are to be asked."""
    varying = [name for name in _TAXED_BY if len({one.facts[name] for one in observations}) > 1]
    for count in range(len(varying), 0, -1):
        yield from (names for names in combinations(varying, count) if names != ("tax_class",))


def _payments(observed: Observed, books: MasterData, least: int) -> Iterator[Learnt]:
    """Each method has its line, and no account stands for all others: money by a new one waits for a person."""
    types = {account.code: account.type for account in books.accounts}
    taken = {*MONEY_TYPES, *ALLOWED_TYPES["gift_cards"]}
    right = [one for one in observed.tenders if types.get(one.answer) in taken]
    if not right:
        yield Learnt(("payments",), None, note="no payment in the books could be told to be of an order")
        return
    last = "method" if all(one.facts["method"] for one in right) else "tender"
    before = tuple((name,) for name in TENDER_PRECEDENCE[: TENDER_PRECEDENCE.index(last)])
    found = learn(right, Form(before, last=last), least=least)
    yield from _noted(_tendered(found), found)


def _tendered(found: DecisionList) -> Iterator[Learnt]:
    for clause in found.clauses:
        ((name, value),) = clause.conditions
        yield _learnt(("payments", "accounts", f"by_{name}", value), clause)


def _fields(observed: Observed) -> Iterator[Learnt]:
    for name, observations in observed.headers.items():
        # What stands on few documents was somebody's own doing, and no rule for all.
        if 2 * len(observations) > len(observed.roles):
            yield from _field(("fields", name), observations, _OF_ORDERS)


def _dimensions(observed: Observed, books: MasterData) -> Iterator[Learnt]:
    known = {dimension.name: {one.code for one in dimension.values} for dimension in books.dimensions}
    for name, observations in sorted(observed.dimensions.items()):
        right = [one for one in observations if one.answer in known.get(name, ())]
        if right:
            yield from _field(("dimensions", name), right, _OF_LINES)


def _field(at: tuple[str, ...], observations: Sequence[Observation], asked: Mapping[str, str]) -> Iterator[Learnt]:
    """The one field whose table says the most with the fewest lines; or the same value always."""
    best: tuple[int, str, DecisionList] | None = None
    for name in ("", *asked):
        if name and not all(one.facts.get(name) for one in observations):
            continue
        found = learn(observations, Form((), last=name))
        cost = 2 * len(found.exceptions) + len(found.clauses) + bool(found.default)
        if best is None or cost < best[0]:
            best = cost, name, found
    assert best is not None, "a fixed value is among the choices"
    _, name, found = best
    if found.default is not None:
        yield _learnt((*at, "fixed"), found.default)
        return
    right = sum(clause.supported for clause in found.clauses)
    yield Learnt((*at, "from"), asked[name], right, len(found.exceptions))
    for clause in found.clauses:
        yield _learnt((*at, "table", clause.conditions[0][1]), clause)


def _warehouses(observed: Observed) -> Iterator[Learnt]:
    stored = [one for one in observed.warehouses if one.answer]
    if not stored:
        return
    if all(one.facts["location"] for one in stored):
        for clause in learn(stored, Form((), last="location")).clauses:
            yield _learnt(("warehouses", "by_location", clause.conditions[0][1]), clause)
        return
    found = learn(stored, Form(()))
    if found.default is not None:
        yield _learnt(("warehouses", "default"), found.default)


def _learnt(at: Iterable[str], clause: Clause, value: Any = None) -> Learnt:
    return Learnt(tuple(at), clause.answer if value is None else value, clause.supported, clause.contradicted)


def _noted(rules: Iterable[Learnt], found: DecisionList) -> Iterator[Learnt]:
    """The rules of a list; with the first of them stands that no proof was found of their being the fewest."""
    for place, rule in enumerate(rules):
        said = rule.value is not None and not place and not found.proved
        yield rule._replace(note=_UNPROVED) if said else rule


def _condition(clause: Clause) -> str:
    return " && ".join(f"{_OF_ORDERS[name]} == {_quoted(value)}" for name, value in clause.conditions)


def _quoted(text: str) -> str:
    """A text in an expression (Common Expression Language: string literals)."""
    # JSON's escapes are among those of CEL.
    return json.dumps(text, ensure_ascii=False)


def _named(clause: Clause) -> str:
    said = ", ".join(f"{name.replace('_', ' ')} {value}" for name, value in clause.conditions)
    return said[0].upper() + said[1:120]
