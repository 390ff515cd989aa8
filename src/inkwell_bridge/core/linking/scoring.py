"""What is likely: how alike two are, in points, with the reason in words."""

from __future__ import annotations

from rapidfuzz import fuzz

from inkwell_bridge.core.comparing import plain
from inkwell_bridge.core.linking.known import Known, LinkKind
from inkwell_bridge.core.values import Text, Value

LEAST_POINTS = 50
# What the same key is worth where it found several, or stands against another name.
_SAME_KEY = 90
_LEAST_ALIKE_EMAILS = 85


class Score(Value):
    """Units: ``points`` from 0 to 100; 100 is as alike as can be."""

    points: int
    reason: Text


def scored(kind: LinkKind, wanted: Known, candidate: Known) -> Score:
    """How alike two are."""
    return _products(wanted, candidate) if kind is LinkKind.PRODUCTS else _customers(wanted, candidate)


def _products(wanted: Known, candidate: Known) -> Score:
    names = _alike(wanted.name, candidate.name)
    codes = round(fuzz.ratio(wanted.code_key, candidate.code_key)) if wanted.code and candidate.code else 0
    points = max(names * 0.9, codes * 0.9, names * 0.65 + codes * 0.35)
    reasons = [f"names alike by {names}", f"codes alike by {codes}"]
    same = _same(wanted, candidate, ("code", "barcode"))
    return _score(points, same, reasons)


def _customers(wanted: Known, candidate: Known) -> Score:
    names = _alike(wanted.name, candidate.name)
    emails = round(fuzz.ratio(wanted.email_key, candidate.email_key)) if wanted.email and candidate.email else 0
    # Any two e-mails have much in common; less than a slip of the finger says nothing.
    emails = emails if emails >= _LEAST_ALIKE_EMAILS else 0
    points = max(names * 0.75, names * 0.6 + emails * 0.4)
    reasons = [f"names alike by {names}"] + ([f"e-mails alike by {emails}"] if emails else [])
    if wanted.postcode and plain(wanted.postcode) == plain(candidate.postcode):
        points = max(points, names * 0.75 + 20)
        reasons.append("same postcode")
    return _score(points, _same(wanted, candidate, ("email", "tax_number")), reasons)


def _alike(one: str, other: str) -> int:
    return round(fuzz.token_sort_ratio(plain(one), plain(other))) if one and other else 0


def _same(wanted: Known, candidate: Known, fields: tuple[str, ...]) -> list[str]:
    keys = ((name, getattr(wanted, f"{name}_key"), getattr(candidate, f"{name}_key")) for name in fields)
    return [name.replace("_", " ").replace("email", "e-mail") for name, one, other in keys if one and one == other]


def _score(points: float, same: list[str], reasons: list[str]) -> Score:
    told = [*(f"same {name}" for name in same), *reasons]
    worth = max(points, _SAME_KEY + points / 10) if same else points
    return Score(points=min(100, round(worth)), reason=", ".join(told))
