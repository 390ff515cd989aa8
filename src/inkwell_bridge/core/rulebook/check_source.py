"""Holding a rulebook against the sales side's reference data."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.commerce import SalesCapabilities, SalesMasterData, WriteBackKind
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.json_pointer import escaped
from inkwell_bridge.core.rulebook.found import placed, unknown_at_source, wrong
from inkwell_bridge.core.rulebook.model import Rulebook
from inkwell_bridge.core.rulebook.near import near_miss
from inkwell_bridge.core.rulebook.source_map import SourceMap


def check_source(
    rulebook: Rulebook,
    source: SalesMasterData,
    *,
    master_data: MasterData | None = None,
    source_map: SourceMap | None = None,
) -> tuple[Finding, ...]:
    """Everything the rulebook names that the sales side does not have; a warning each, for an old order may have it.

    A kind of name that the sales side does not tell is not checked. With ``master_data``, the rates of both are held
    against each other.
    """
    found = [*_at_source(rulebook, source), *(_rates(rulebook, source, master_data) if master_data else ())]
    return tuple(placed(finding, source_map) for finding in found)


def check_written_back(
    rulebook: Rulebook, capabilities: SalesCapabilities, *, source_map: SourceMap | None = None
) -> tuple[Finding, ...]:  # fmt: skip
    """What is to be written back and the sales side cannot take."""
    said = rulebook.orders.written_back if rulebook.orders else None
    found = [
        wrong("CAN-E012", f"/orders/written_back/{name}", f"this sales side takes no {name}s", "Leave this key out.")
        for name, kind in (("tag", WriteBackKind.TAG), ("note", WriteBackKind.NOTE))
        if said is not None and getattr(said, name) and kind not in capabilities.writes_back
    ]
    return tuple(placed(finding, source_map) for finding in found)


def _at_source(rulebook: Rulebook, source: SalesMasterData) -> Iterator[Finding]:
    if rulebook.orders is None:
        return
    # An empty list is one that the shop does not tell: that a name is not on it means nothing.
    classes = [known.name for known in source.tax_classes]
    for name in rulebook.for_orders.tax_codes.by_class if classes else ():
        if name not in classes:
            yield unknown_at_source(
                "REF-W007", f"/tax_codes/by_class/{escaped(name)}", f"tax class {name}", near_miss(name, classes)
            )
    statuses = source.order_statuses
    for place, name in enumerate(rulebook.orders.statuses if statuses else ()):
        if name not in statuses:
            yield unknown_at_source(
                "REF-W008", f"/orders/statuses/{place}", f"order status {name}", near_miss(name, statuses)
            )
    for what, known_names, at, names in _tables(rulebook, source):
        for name in names if known_names else ():
            if name not in known_names:
                yield unknown_at_source("REF-W011", f"{at}/{escaped(name)}", f"{what} {name}",
                                        near_miss(name, known_names))  # fmt: skip


def _tables(rulebook: Rulebook, source: SalesMasterData) -> Iterator[tuple[str, Sequence[str], str, Iterable[str]]]:
    """Every table that goes by the sales side's own names: what they name, which there are, where, and which are
    named."""
    if rulebook.payments is not None:
        for name, rules in (("accounts", rulebook.payments.accounts), ("told_by", rulebook.payments.tellers)):
            yield "payment method", source.payment_methods, f"/payments/{name}/by_method", rules.by_method
            yield "card brand", source.card_brands, f"/payments/{name}/by_brand", rules.by_brand
    yield "customer group", source.customer_groups, "/customers/groups", rulebook.customers.groups
    yield "language", source.languages, "/customers/languages", rulebook.customers.languages
    for at, setting in rulebook.settings:
        yield "product type", source.product_types, f"{at}/by_product_type", setting.by_product_type
        yield "customer group", source.customer_groups, f"{at}/by_customer_group", setting.by_customer_group
        yield "location", source.locations, f"{at}/by_location", setting.by_location


def _rates(rulebook: Rulebook, source: SalesMasterData, master_data: MasterData) -> Iterator[Finding]:
    """Classes of one rate whose code in the books has another."""
    if rulebook.orders is None:
        return
    rules = rulebook.for_orders.tax_codes
    for known in source.tax_classes:
        code = master_data.tax_code(rules.by_class.get(known.name, ""))
        rates = {rate.rate_percent for rate in known.rates}
        # Taxes on lines of their own have a code each; that of the class is not held against any one rate.
        if code is None or not rates or rules.stands_on_lines(known.name) or code.whole_rate in rates:
            continue
        told = " or ".join(f"{rate.normalize():f} %" for rate in sorted(rates))
        text = f"tax class {known.name} is taxed with {told}, code {code.code} with {code.whole_rate.normalize():f} %"
        hint = "Name a code of the same rate, or an exception for the sales that it is meant for."
        at = f"/tax_codes/by_class/{escaped(known.name)}"
        yield Finding(id="REF-W009", level=Level.WARNING, text=text, hint=hint, at=at)
