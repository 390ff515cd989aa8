"""Where the documents that rules make of an order differ from those that the books hold for it."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from decimal import Decimal

from inkwell_bridge.core.books import HEADER_CODES, Payment
from inkwell_bridge.core.examples.example import Example, Sale
from inkwell_bridge.core.findings import Level
from inkwell_bridge.core.planner import Outcome, Plan
from inkwell_bridge.core.proof.amounts import coded_amounts

ZERO = Decimal(0)
# What books that compute taxes themselves may come to otherwise, on one document.
ALLOWANCE = Decimal("0.05")
_COMPARED = ("date", "currency", "tax_point", "due_on", "terms", *HEADER_CODES)
_NOTHING = (ZERO, ZERO)


def differences(plan: Plan, example: Example) -> list[str]:
    """What differs, in words; nothing where the books hold what the rules make.

    Postings are compared: what stands under each account and tax code, and each value of a dimension; never line by
    line, for who types by hand puts several amounts on one line. A difference of tax within the allowance is a penny
    that the books computed, and no rule's.
    """
    there = example.sale
    if there is None:
        return [] if plan.outcome is Outcome.LEFT_OUT else ["the books hold nothing for it, and no rule leaves it out"]
    if plan.outcome is Outcome.LEFT_OUT:
        return [f"the books hold it, and the rules leave it out ({plan.left_out_by})"]
    ours = [one for one in plan.documents if isinstance(one, Sale)]
    if not ours:
        return [next((one.text for one in plan.findings if one.level is Level.ERROR), "the rules make nothing of it")]
    planned = next((one for one in ours if one.role == there.role), None)
    if planned is None:
        return [f"a {there.role} in the books, by the rules a {ours[0].role}"]
    return [*_headers(planned, there), *_postings(planned, there), *_reported(planned, there), *_money(plan, example)]


def _headers(planned: Sale, there: Sale) -> Iterator[str]:
    for name in _COMPARED:
        ours, theirs = getattr(planned, name, None), getattr(there, name, None)
        # What the rules do not say the books may fill in by their own habits, such as terms of a contact.
        if ours and ours != theirs:
            yield f"{name.replace('_', ' ')} {theirs or 'missing'} in the books, by the rules {ours}"


def _postings(planned: Sale, there: Sale) -> Iterator[str]:
    ours, theirs = coded_amounts(planned), coded_amounts(there)
    for coding in sorted({*ours, *theirs}):
        net, tax = ours.get(coding, _NOTHING)
        found_net, found_tax = theirs.get(coding, _NOTHING)
        # A line for the penny has no place in any order; it is as small as what it settles.
        penny = coding not in ours and abs(found_net) <= ALLOWANCE
        if (net != found_net and not penny) or abs(tax - found_tax) > ALLOWANCE:
            under = f"account {coding.account}, tax code {coding.tax_code}"
            yield f"{found_net} + {found_tax} under {under} in the books, by the rules {net} + {tax}"


def _reported(planned: Sale, there: Sale) -> Iterator[str]:
    ours, theirs = _by_dimension(planned), _by_dimension(there)
    for name, value in sorted({*ours, *theirs}):
        net, found = ours.get((name, value), ZERO), theirs.get((name, value), ZERO)
        if net != found:
            yield f"{found} under {name} {value} in the books, by the rules {net}"


def _by_dimension(document: Sale) -> Mapping[tuple[str, str], Decimal]:
    sums: dict[tuple[str, str], Decimal] = defaultdict(lambda: ZERO)
    for line in document.lines:
        for dimension in line.dimensions:
            sums[dimension.name, dimension.value] += line.net
    return sums


def _money(plan: Plan, example: Example) -> Iterator[str]:
    """Payments by account and amount; where the books hold none, somebody may have left them for later."""
    ours = Counter((one.account, one.amount) for one in plan.documents if isinstance(one, Payment))
    theirs = Counter((one.account, one.amount) for one in example.money)
    if theirs and ours:
        for account, amount in sorted((theirs - ours).keys()):
            yield f"{amount} received on {account} in the books, and not by the rules"
        for account, amount in sorted((ours - theirs).keys()):
            yield f"{amount} received on {account} by the rules, and not in the books"
