"""What a person must say: what is not linked yet, with what it may be, the likeliest first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db import connection, transaction

from inkwell_bridge.core.linking import LEAST_POINTS, Known, LinkKind, scored
from inkwell_bridge.service.links.between import SIDES, Between
from inkwell_bridge.service.reference.entries import known_of
from inkwell_bridge.service.reference.models import Entry

MOST_SUGGESTIONS = 5
# Looked at for each question, before they are scored.
_CANDIDATES = 12
_LEAST_SIMILARITY = 0.2
# One statement for all questions of a page: the likest by trigrams, and whatever shares a key.
_LIKELY = """
SELECT asked.source_id, likely.id
FROM reference_entry asked
CROSS JOIN LATERAL (
    SELECT kept.id FROM reference_entry kept
    WHERE kept.connection_id = %(books)s AND kept.kind = %(kept)s AND kept.gone_in_id IS NULL AND kept.active
      AND (kept.search %% asked.search
           OR (asked.code_key <> '' AND kept.code_key = asked.code_key)
           OR (asked.barcode_key <> '' AND kept.barcode_key = asked.barcode_key)
           OR (asked.email_key <> '' AND kept.email_key = asked.email_key)
           OR (asked.tax_number_key <> '' AND kept.tax_number_key = asked.tax_number_key))
    ORDER BY similarity(kept.search, asked.search) DESC, kept.id LIMIT %(most)s
) likely
WHERE asked.id = ANY(%(asked)s)
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Offered:
    """An item or contact that a suggestion leads to, and how many of it."""

    id: str
    code: str
    name: str
    email: str = ""
    postcode: str = ""
    quantity: Decimal = Decimal(1)
    share: Decimal | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggestion:
    """What it may be; several at once for a kit. Units: ``points`` of 100."""

    targets: tuple[Offered, ...]
    points: int
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """One that is not linked yet."""

    entry: Entry
    suggestions: tuple[Suggestion, ...]


def ask(between: Between, entries: Sequence[Entry]) -> list[Question]:
    """A question for each of these, in their order."""
    likely = _likely(between, entries)
    parts = _parts(between, entries)
    return [Question(entry=entry, suggestions=_suggestions(between.kind, entry, likely, parts)) for entry in entries]


def _likely(between: Between, entries: Sequence[Entry]) -> dict[str, list[Entry]]:
    values = {
        "books": between.books.pk,
        "kept": SIDES[between.kind][1].value,
        "most": _CANDIDATES,
        "asked": [entry.pk for entry in entries],
    }
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SELECT set_config('pg_trgm.similarity_threshold', %s, true)", [str(_LEAST_SIMILARITY)])
        cursor.execute(_LIKELY, values)
        pairs = cursor.fetchall()
    kept = Entry.objects.in_bulk({number for _, number in pairs})
    found: dict[str, list[Entry]] = {}
    for source_id, number in pairs:
        found.setdefault(source_id, []).append(kept[number])
    return found


def _parts(between: Between, entries: Sequence[Entry]) -> dict[str, Entry]:
    """The items that the kits among these are made of, by code."""
    codes = {part["code"].casefold() for entry in entries for part in entry.details.get("parts", ())}
    return {one.code_key: one for one in between.kept().filter(code_key__in=codes)} if codes else {}


def _suggestions(
    kind: LinkKind, entry: Entry, likely: Mapping[str, list[Entry]], parts: Mapping[str, Entry]
) -> tuple[Suggestion, ...]:
    wanted = known_of(entry)
    found = [_one(kind, wanted, candidate) for candidate in likely.get(entry.source_id, [])]
    found = sorted((one for one in found if one.points >= LEAST_POINTS), key=lambda one: -one.points)
    kit = _kit(wanted, parts)
    return tuple([*([kit] if kit else []), *found][:MOST_SUGGESTIONS])


def _one(kind: LinkKind, wanted: Known, candidate: Entry) -> Suggestion:
    score = scored(kind, wanted, known_of(candidate))
    offered = _offered(candidate, quantity=wanted.pack_of)
    reason = f"{score.reason}; a pack of {wanted.pack_of:f}" if wanted.pack_of != 1 else score.reason
    return Suggestion(targets=(offered,), points=score.points, reason=reason)


def _kit(wanted: Known, parts: Mapping[str, Entry]) -> Suggestion | None:
    found = [(part, parts.get(part.code.casefold())) for part in wanted.parts]
    if not found or any(entry is None for _, entry in found):
        return None
    targets = tuple(
        _offered(entry, quantity=part.quantity, share=part.share) for part, entry in found if entry is not None
    )
    return Suggestion(targets=targets, points=100, reason="a kit, all of whose parts are items")


def _offered(entry: Entry, *, quantity: Decimal = Decimal(1), share: Decimal | None = None) -> Offered:
    details = entry.details
    return Offered(id=entry.source_id, code=entry.code, name=entry.name, email=details.get("email", ""),
                   postcode=details.get("postcode", ""), quantity=quantity, share=share)  # fmt: skip
