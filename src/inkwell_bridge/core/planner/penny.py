"""The penny: what becomes of a difference between the shop's total and the one the books compute."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.books import (
    AnyBooksDocument,
    BooksCapabilities,
    BooksRecord,
    DocumentLine,
    LineKind,
    MasterData,
    TradeDocument,
)
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.money import room_for_rounding, tax_on_top
from inkwell_bridge.core.planner.plan import Reason
from inkwell_bridge.core.planner.rounding_line import rounding_line, rounding_place
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.rulebook.money import PennyRules
from inkwell_bridge.core.values import Exact, Value

ZERO = Decimal(0)


class Settlement(Value):
    """How a difference is settled.

    Shape: ``difference`` is the shop's total less the books'; ``document`` is what the books should
    hold afterwards; ``reasons`` tell each value that is not as it was planned; ``finding`` holds the
    document where a person must decide.
    """

    difference: Exact
    document: AnyBooksDocument
    reasons: tuple[Reason, ...] = ()
    finding: Finding | None = None


def foreseen(
    sale: TradeDocument, master_data: MasterData, rules: PennyRules, capabilities: BooksCapabilities
) -> list[Finding]:
    """A note where the books are expected to compute another total than the shop did."""
    # Books that take tax as it is given, or round once a document, have nothing to compute otherwise line by line.
    if capabilities.tax != "computed" or capabilities.tax_rounded_by != "line":
        return []
    # A code without a rate is one that the books do not tax; it adds nothing on either side.
    rates = ((line.net, master_data.rate(line.tax_code)) for line in sale.lines)
    expected = sum((tax_on_top(net, rate, sale.currency) for net, rate in rates if rate), ZERO)
    difference = sale.tax - expected
    if not difference:
        return []
    text = f"The books will compute {expected} of tax where the shop charged {sale.tax}: {difference:+} to settle"
    allowed = rules.allowed(sale.currency, own=master_data.currency)
    if abs(difference) > allowed or rules.goes_to == "hold":
        why = "the rulebook holds any difference" if rules.goes_to == "hold" else f"more than {allowed} apart"
        text += f", and {why}; a run would hold it."
        return [Finding(id="PENNY-W004", level=Level.WARNING, at="/tax_total", text=text,
                        hint="Check that each tax class has the code of the same rate.")]  # fmt: skip
    hint = f"By rule up to {allowed} goes to: {rules.goes_to}."
    return [Finding(id="PENNY-N001", level=Level.NOTE, at="/tax_total", text=f"{text}.", hint=hint)]


def settle(
    planned: TradeDocument, record: BooksRecord, rulebook: OrderRulebook, master_data: MasterData, *, own: str,
    accepted: bool = False,
) -> Settlement:  # fmt: skip
    """Settle what differs between the planned document and the draft that the books computed; ``own`` is the company's
    own currency, and ``master_data`` what the books said of their codes when it was planned. ``accepted``: a person has
    looked, and it is settled whatever its size.

    The rounding line carries a tax code outside tax, or the books would tax the penny in turn.
    """
    theirs = _without_settlement(_lines_of(record), planned)
    # Only taxes may be computed otherwise: another net means that somebody edited the draft meanwhile.
    if [line.net for line in theirs] != [line.net for line in planned.lines]:
        return Settlement(difference=ZERO, document=planned, finding=_other_net(planned))
    # However little it comes to: a tax at another rate is no rounding, and nobody's penny.
    other_rate = next(_at_other_rates(planned, theirs, master_data), None)
    if other_rate is not None:
        return Settlement(difference=ZERO, document=planned, finding=other_rate)
    # An attempt that was cut off may have put the rounding line there already: it is worked out anew.
    computed = planned.model_copy(update={"lines": _as_taxed(planned, theirs)})
    difference = planned.gross - computed.gross
    # Differences of single lines may cancel out; each is named all the same, for the tax return goes by code.
    taxed = tuple(_taxed_otherwise(planned, computed))
    if not difference:
        return Settlement(difference=ZERO, document=computed, reasons=taxed)
    rules = rulebook.penny
    # More than pennies is no rounding: a class has the code of another rate, and a person must look.
    allowed = rules.allowed(planned.currency, own=own)
    if rules.goes_to == "hold" or (abs(difference) > allowed and not accepted):
        return Settlement(difference=difference, document=planned, finding=_too_much(planned, computed, rules, allowed))
    index = rounding_place(planned.lines, rulebook)
    line = rounding_line(difference, index.code, rulebook, line_reference="rounding", text="Rounding difference of tax",
                         order_number=planned.order_number, link=planned.link)  # fmt: skip
    reason = Reason(
        target=f"/documents/0/lines/{len(planned.lines)}/net",
        sources=("/tax_total", "/total"),
        rule=index.rule,
        text=f"The books computed {computed.gross}, the shop charged {planned.gross}: "
        f"{difference:+} goes to {index.text}.",
    )
    # After the books' own lines, so that their places stay those that the reasons name.
    settled = computed.model_copy(update={"lines": (*computed.lines, line)})
    return Settlement(difference=difference, reasons=(*taxed, reason), document=settled)


def _lines_of(record: BooksRecord) -> tuple[DocumentLine, ...]:
    return record.document.lines if isinstance(record.document, TradeDocument) else ()


def _without_settlement(theirs: Sequence[DocumentLine], planned: TradeDocument) -> Sequence[DocumentLine]:
    """The lines of a draft but for the one that an earlier attempt may have settled it by: it stands behind them all,
    and a rounding that was planned (of cash, say) stands among them."""
    is_settled = len(theirs) == len(planned.lines) + 1 and theirs[-1].kind is LineKind.ROUNDING
    return theirs[:-1] if is_settled else theirs


def _taxed_otherwise(planned: TradeDocument, computed: TradeDocument) -> Iterator[Reason]:
    for index, (line, theirs) in enumerate(zip(planned.lines, computed.lines, strict=True)):
        if line.tax != theirs.tax:
            yield Reason(
                target=f"/documents/0/lines/{index}/tax",
                sources=("/tax_total",),
                rule="planner:tax-as-the-books-compute",
                text=f"The books computed {theirs.tax} of tax on {line.net} where the shop charged {line.tax}.",
            )


def _as_taxed(planned: TradeDocument, theirs: Sequence[DocumentLine]) -> tuple[DocumentLine, ...]:
    """The planned lines with the taxes that the books computed for them."""
    pairs = zip(planned.lines, theirs, strict=True)
    return tuple(line.model_copy(update={"tax": computed.tax}) for line, computed in pairs)


def _at_other_rates(
    planned: TradeDocument, theirs: Sequence[DocumentLine], master_data: MasterData
) -> Iterator[Finding]:  # fmt: skip
    """Of each line whose planned tax is that of its code's rate, and the one that the books computed is not."""
    for line, computed in zip(planned.lines, theirs, strict=True):
        rate = master_data.rate(line.tax_code)
        if line.tax == computed.tax or not line.net or line.tax_code != computed.tax_code:
            continue
        expected = tax_on_top(line.net, rate, planned.currency)
        room = room_for_rounding(line.quantity, planned.currency)
        if abs(line.tax - expected) <= room < abs(computed.tax - expected):
            yield Finding(
                id="PENNY-E005", level=Level.ERROR, at="/total", cause=Cause.CODE_RATE,
                text=f"The books computed {computed.tax} of tax on {line.net} {planned.currency} for order "
                f"{planned.order_number}, under code {line.tax_code}. That code had {rate.normalize():f} % when the "
                f"reference data of the books were loaded, which makes {expected}.",
                hint="Load the reference data of the books, and see which code such sales should have; then release "
                "the order.",
            )  # fmt: skip


def _other_net(planned: TradeDocument) -> Finding:
    return Finding(
        id="PENNY-E003",
        level=Level.ERROR,
        at="/lines",
        cause=Cause.PENNY,
        text=f"The draft for order {planned.order_number} has other amounts without tax than were sent.",
        hint="See whether somebody edited the draft in the books; void it there, then release the order.",
    )


def _too_much(planned: TradeDocument, computed: TradeDocument, rules: PennyRules, allowed: Decimal) -> Finding:
    difference = planned.gross - computed.gross
    why = "the rulebook holds any difference" if rules.goes_to == "hold" else f"over the allowance of {allowed}"
    return Finding(
        id="PENNY-E002",
        level=Level.ERROR,
        at="/total",
        cause=Cause.PENNY,
        text=f"The books computed {computed.gross} {planned.currency} for order {planned.order_number}, "
        f"the shop {planned.gross}: {difference:+} is {why}.",
        hint="Check that each tax class has the code of the same rate, then release the order.",
    )
