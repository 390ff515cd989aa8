"""The source documents behind an amount of the sheet, page by page."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from django.db.models import F, Model, Q, QuerySet, Sum

from inkwell_bridge.core.proof import IN_TOTALS, OF_CODES, Grain, Reason, Section, Side, Totals
from inkwell_bridge.service.carriage.models import Crossing, Difference, Figure
from inkwell_bridge.service.carriage.totals import SUMS, totals_of
from inkwell_bridge.service.tieout import sheet
from inkwell_bridge.service.tieout.at_provider import known_to_provider_only
from inkwell_bridge.service.tieout.money_alone import not_carried
from inkwell_bridge.service.tieout.reasons import NAMED, OF_DIFFERING, differing_for
from inkwell_bridge.service.tieout.scope import Scope

PAGE = 100
# What ``core.proof.tables_of`` says, for the database: the figures of a total or a tender, and those of a tax code or
# an account.
_IN_FULL = Q(grain=Grain.DOCUMENT, side__in=(Side.SOURCE, Side.BOOKS)) | Q(side=Side.RECONCILING)
_OF_LINES = Q(grain=Grain.LINE, side__in=(Side.CODED, Side.BOOKS)) | Q(side=Side.RECONCILING, role__in=OF_CODES)
_ON_NO_SIDE = {Reason.AT_PROVIDER: known_to_provider_only, Reason.MONEY_NOT_CARRIED: not_carried}
_ROLES = {reason: role for role, reason in NAMED.items()}


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """Which amount is asked about; ``after`` is the number of the last document of the page before."""

    section: str = "both"
    currency: str = ""
    tax_code: str = ""
    tender: str = ""
    connection: str = ""
    account: str = ""
    reason: str = ""
    detail: str = ""
    after: int = 0

    @property
    def of_lines(self) -> bool:
        """Whether it is an amount of lines: then it is held against what the rules made of the source."""
        return bool(self.tax_code or self.account)

    @property
    def figures(self) -> Q:
        """The figures that the amount is a sum of."""
        return (_OF_LINES if self.of_lines else _IN_FULL) & Q(section__in=self._sections) & self._parted

    @property
    def differences(self) -> Q:
        """What stands between the sides of it."""
        grain = Grain.ACCOUNT if self.account else Grain.LINE if self.tax_code else Grain.DOCUMENT
        return Q(grain=grain, section__in=self._sections) & self._parted

    @property
    def differing(self) -> Reason | None:
        """What documents differ for, where all of those are asked about and not those of one amount: they may differ in
        something else than an amount."""
        reason = Reason(self.reason) if self.reason else None
        return reason if reason in OF_DIFFERING and not self._of_amount else None

    @property
    def counts_on_no_side(self) -> bool:
        """Whether documents without figures on the sheet are asked for."""
        return self.reason in _ON_NO_SIDE

    @property
    def _of_amount(self) -> bool:
        return bool(self.currency or self.tax_code or self.tender or self.account or self.section != "both")

    @property
    def _sections(self) -> Sequence[str]:
        return [self.section] if self.section in (*IN_TOTALS, Section.MONEY) else list(IN_TOTALS)

    @property
    def _parted(self) -> Q:
        by = ("currency", "tax_code", "tender", "account")
        said = {name: getattr(self, name) for name in by if getattr(self, name)}
        return Q(**said, **({"bridge__books__slug": self.connection} if self.connection else {}))


@dataclass(slots=True)
class Behind:
    """What one source document has on the sheet, in one currency."""

    crossing: Crossing
    currency: str
    source: Totals = field(default_factory=Totals)
    books: Totals = field(default_factory=Totals)
    reasons: list[Reason] = field(default_factory=list)
    detail: str = ""


def documents(scope: Scope, wanted: Wanted) -> tuple[list[Behind], bool]:
    """A page of them, by number, and whether there are more. Five statements, whatever is on it."""
    chosen = list(_chosen(scope, wanted).filter(crossing__gt=wanted.after).order_by("crossing")[: PAGE + 1])
    keys = chosen[:PAGE]
    crossings = Crossing.objects.filter(pk__in=keys).select_related("bridge").defer("planned", "findings")
    by_pk = {one.pk: one for one in crossings}
    found: dict[tuple[int, str], Behind] = {}

    def behind(key: int, currency: str) -> Behind:
        return found.setdefault((key, currency), Behind(by_pk[key], currency))

    source = Side.CODED if wanted.of_lines else Side.SOURCE
    rows = scope.of(Figure.objects.filter(wanted.figures, crossing__in=keys))
    for row in rows.values("crossing", "currency", "side", "role").annotate(**SUMS).order_by():
        one, totals = behind(row["crossing"], row["currency"]), totals_of(row)
        if row["side"] == source:
            one.source = one.source.plus(totals)
        elif row["side"] == Side.BOOKS:
            one.books = one.books.plus(totals)
        elif row["side"] == Side.RECONCILING and not totals.nothing:
            one.reasons.append(NAMED[row["role"]])
    between = scope.of(Difference.objects.filter(wanted.differences, crossing__in=keys))
    for row in between.values("crossing", "currency", "reason", "detail").distinct().order_by():
        one = behind(row["crossing"], row["currency"])
        one.reasons.append(Reason(row["reason"]))
        one.detail = one.detail or row["detail"]
    told = Reason(wanted.reason) if wanted.counts_on_no_side else wanted.differing
    if told is not None:
        # A payout has no figures on the sheet, and is one of them all the same.
        for key in set(by_pk) - {pk for pk, _ in found}:
            behind(key, by_pk[key].currency)
        for one in found.values():
            one.reasons = list(dict.fromkeys([told, *one.reasons]))
            one.detail = one.crossing.cause if told is Reason.MONEY_NOT_CARRIED else one.detail
    order = {key: place for place, key in enumerate(keys)}
    return sorted(found.values(), key=lambda one: (order[one.crossing.pk], one.currency)), len(chosen) > PAGE


def _chosen(scope: Scope, wanted: Wanted) -> QuerySet[Model, int]:
    """The keys of the crossings behind the amount."""
    if wanted.counts_on_no_side:
        rows = _ON_NO_SIDE[wanted.reason](scope)
        return _keys(rows.filter(cause=wanted.detail) if wanted.detail else rows)
    if wanted.differing is not None:
        return _keys(sheet.differing_documents(scope).filter(differing_for(wanted.differing)))
    if wanted.reason in _ROLES:
        named = Figure.objects.filter(wanted.figures, side=Side.RECONCILING, role=_ROLES[Reason(wanted.reason)])
        # What was named once, and taken off again, is none of it.
        sums = scope.of(named).values("crossing").annotate(**{f"sum_{name}": Sum(name) for name in SUMS})
        there = sums.exclude(sum_count=0, sum_net=0, sum_tax=0, sum_gross=0)
        return there.values_list("crossing", flat=True)
    if wanted.reason:
        chosen = scope.of(Difference.objects.filter(wanted.differences, reason=wanted.reason))
        if wanted.detail:
            chosen = chosen.filter(detail=wanted.detail)
        return chosen.values_list("crossing", flat=True).distinct()
    return scope.of(Figure.objects.filter(wanted.figures)).values_list("crossing", flat=True).distinct()


def _keys(crossings: QuerySet[Crossing]) -> QuerySet[Model, int]:
    return crossings.annotate(crossing=F("pk")).values_list("crossing", flat=True)
