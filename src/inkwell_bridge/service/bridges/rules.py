"""The rulebooks of bridges: writing a draft, publishing it, finding the one in force."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import Any, cast

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from inkwell_bridge.core import rulebook as rules
from inkwell_bridge.core.books import BooksCapabilities, MasterData, Role
from inkwell_bridge.core.commerce import SalesCapabilities, SalesMasterData
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.core.rulebook.compare import Change, compare
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from inkwell_bridge.core.rulebook.merging import merged
from inkwell_bridge.core.rulebook.starter import starter, still_proposed
from inkwell_bridge.ends.contract import kinds
from inkwell_bridge.service.bridges.bases import Below, as_written_on, built_on
from inkwell_bridge.service.bridges.models import BaseRulebook, Bridge, RulebookVersion
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.reference.models import Entry, Part
from inkwell_bridge.service.reference.pinned import master_data_of, newest_master_data, with_house_contacts
from inkwell_bridge.service.refusal import Refusal

# What an order can become; books that take none of it take customers alone.
_ORDERS_BECOME = {Role.INVOICE, Role.SALES_ORDER, Role.CASH_SALE}


class NotADraft(Refusal):
    """A published rulebook never changes."""

    code = "not-a-draft"
    hint = "Write a new draft, then publish that."


class WrittenMeanwhile(Refusal):
    """Somebody else wrote a version since the one that a draft began from."""

    code = "written-meanwhile"
    hint = "Look at what they changed. Take both together, or write yours all the same by leaving out after."

    def __init__(self, newest: RulebookVersion, after: RulebookVersion, text: str) -> None:
        both = merged(after.text, text, newest.text)
        self._members = {"newest": newest.number, "merged": both.text, "conflicts": list(both.conflicts)}
        by = f" by {newest.author.email}" if newest.author else ""
        super().__init__(f"Version {newest.number} was written{by} since version {after.number}.")

    def members(self) -> dict[str, Any]:
        """The newest version, and a text with both changes."""
        return self._members


class NothingLoaded(Refusal):
    """There is nothing yet that rules could be made from."""

    code = "nothing-loaded"
    hint = "Load the reference data of both ends first."


def unsaved(bridge: Bridge, text: str, *, file: str = "rulebook.yaml") -> RulebookVersion:
    """A version that is not kept: to be looked at, and tried.

    Raises:
        RulebookInvalid: the text is no rulebook; every error with its line.
    """
    below = Below(bridge.workspace)
    rules.read(text, file=file, base=below)
    return RulebookVersion(workspace=bridge.workspace, bridge=bridge, text=text, layers=below.used)


@transaction.atomic
def write_draft(
    bridge: Bridge, person: Person | None, text: str, *, file: str, after: RulebookVersion | None = None, note: str = ""
) -> RulebookVersion:
    """Keep a new draft; with ``after``, only where that is the newest version still.

    Raises:
        RulebookInvalid: the text is no rulebook; every error with its line.
        WrittenMeanwhile: there is a newer version than ``after``.
    """
    version = unsaved(bridge, text, file=file)
    # Two people who write at once get two numbers, and both drafts stay.
    Bridge.objects.select_for_update().get(pk=bridge.pk)
    newest = newest_version(bridge)
    if after is not None and newest is not None and newest.number > after.number:
        raise WrittenMeanwhile(newest, after, text)
    version.note = note
    version.number = (bridge.rulebooks.aggregate(last=Max("number"))["last"] or 0) + 1
    version.author = person
    version.save()
    record(bridge.workspace, person, "rulebook.drafted", f"{bridge.slug} version {version.number}")
    return version


def findings_of(version: RulebookVersion, *, file: str = "rulebook.yaml") -> tuple[Finding, ...]:
    """What the books do not have of what a version names; a warning where nothing was loaded yet."""
    return (*_held_against_ends(version, file), *still_proposed(version.text, file=file))


def _held_against_ends(version: RulebookVersion, file: str) -> tuple[Finding, ...]:
    read, source_map = rules.read(version.text, file=file, base=as_written_on(version.layers))
    load = newest_master_data(version.bridge.books)
    abilities = _capabilities(version.bridge)
    if load is None:
        text = "Nothing was loaded from the books yet, so accounts and tax codes could not be checked."
        nothing = Finding(id="REF-W006", level=Level.WARNING, text=text, hint="Check the connection to the books.")
        able = rules.check_capabilities(read, abilities, source_map=source_map)
        return (*able, nothing, *_against_source(version.bridge, read, source_map, None))
    # House contacts are too many to be among the lists: those that the rules name are looked up one by one.
    house = (read.customers.without_email, read.customers.house)
    master_data = with_house_contacts(master_data_of(load), version.bridge.books, *house)
    able = rules.check_capabilities(read, abilities, master_data=master_data, source_map=source_map)
    at_source = _against_source(version.bridge, read, source_map, master_data)
    return (*able, *rules.check(read, master_data, source_map=source_map), *at_source)


def to_start_from(bridge: Bridge) -> str:
    """The text of a rulebook made from the reference data of both ends, each choice marked as proposed.

    Raises:
        NothingLoaded: from the books, so there is nothing to choose from.
    """
    load = newest_master_data(bridge.books)
    if load is None:
        raise NothingLoaded(f"Nothing was loaded from {bridge.books.name} yet.")
    sold = newest_master_data(bridge.source)
    guests = Entry.objects.filter(
        workspace=bridge.workspace, connection=bridge.books, kind=Part.CONTACTS, gone_in__isnull=True
    )
    return starter(
        bridge.name,
        master_data_of(load),
        SalesMasterData.read(sold.content) if sold else None,
        guest_contact=guests.filter(search__contains="guest").exclude(code="").order_by("code")
        .values_list("code", flat=True).first() or "",
        takes_orders=bool(_ORDERS_BECOME & set(_capabilities(bridge).documents)),
        country=bridge.company.country,
        starts_on=bridge.starts_on,
    )  # fmt: skip


def _against_source(
    bridge: Bridge, book: Rulebook, source_map: rules.SourceMap, master_data: MasterData | None
) -> tuple[Finding, ...]:
    able = rules.check_written_back(
        book, cast(SalesCapabilities, kinds()[bridge.source.kind].capabilities), source_map=source_map
    )
    load = newest_master_data(bridge.source)
    if load is None:
        return able
    source = SalesMasterData.read(load.content)
    return (*able, *rules.check_source(book, source, master_data=master_data, source_map=source_map))


def _capabilities(bridge: Bridge) -> BooksCapabilities:
    return cast(BooksCapabilities, kinds()[bridge.books.kind].capabilities)


@transaction.atomic
def publish(
    version: RulebookVersion, person: Person | None, *, file: str = "rulebook.yaml", note: str = ""
) -> RulebookVersion:
    """Put a draft in force; a ``note`` takes the place of the one that it was written with.

    Raises:
        RulebookInvalid: it names what the books do not have.
        NotADraft: it is published already.
    """
    # What was posted points to the version it was posted under, so that one never changes.
    if version.published_at:
        raise NotADraft(f"Version {version.number} is published already; write a new draft to change it.")
    findings = findings_of(version, file=file)
    if any(finding.level is Level.ERROR for finding in findings):
        raise RulebookInvalid(findings)
    # Of two who publish at once, the second waits here and finds it done.
    now, before = timezone.now(), in_force(version.bridge)
    version.note = note or version.note
    draft = RulebookVersion.objects.filter(pk=version.pk, published_at__isnull=True)
    if not draft.update(published_at=now, note=version.note):
        raise NotADraft(f"Version {version.number} was published at this moment by somebody else.")
    version.published_at = now
    was = before.number if before else None
    record(version.workspace, person, "rulebook.published", f"{version.bridge.slug} version {version.number}", was=was)
    return version


@transaction.atomic
def take_up_again(version: RulebookVersion, person: Person | None) -> RulebookVersion:
    """Put an earlier version in force again: as a new one of the same text, on the bases that it was written on.

    Raises:
        RulebookInvalid: it names what the books do not have any more.
        NotADraft: it was never in force; it is published.
    """
    if version.published_at is None:
        raise NotADraft(f"Version {version.number} was never in force; publish it.")
    bridge = version.bridge
    Bridge.objects.select_for_update().get(pk=bridge.pk)
    newest = newest_version(bridge)
    again = RulebookVersion.objects.create(
        workspace=bridge.workspace, bridge=bridge, number=(newest.number if newest else 0) + 1, text=version.text,
        layers=version.layers, author=person, note=f"Version {version.number} again.",
    )  # fmt: skip
    return publish(again, person)


def in_force(bridge: Bridge) -> RulebookVersion | None:
    """The newest published version."""
    return bridge.rulebooks.filter(published_at__isnull=False).order_by("-number").first()


def all_in_force(bridges: Iterable[Bridge]) -> Iterator[tuple[Bridge, Rulebook]]:
    """The rules in force of each of these bridges that has some; one statement."""
    asked = list(bridges)
    newest = (
        RulebookVersion.objects.filter(bridge__in=asked, published_at__isnull=False)
        .order_by("bridge_id", "-number")
        .distinct("bridge_id")
    )
    by_bridge = {one.bridge_id: one for one in newest}
    for bridge in asked:
        if bridge.pk in by_bridge:
            yield bridge, parsed(by_bridge[bridge.pk])


def newest_version(bridge: Bridge) -> RulebookVersion | None:
    """The newest version, draft or published."""
    return bridge.rulebooks.order_by("-number").first()


def parsed(version: RulebookVersion) -> Rulebook:
    """A version, read with what it builds on; the same texts are read once."""
    # By the texts and not by the row: a base that was written anew since is another text.
    return _read(version.text, tuple((layer["name"], layer["text"]) for layer in version.layers))


@lru_cache(maxsize=64)
def _read(text: str, layers: tuple[tuple[str, str], ...]) -> Rulebook:
    return rules.read(text, base=dict(layers).get)[0]


def compared(before: RulebookVersion, after: RulebookVersion) -> tuple[Change, ...]:
    """How the second of two versions differs from the first, in words."""
    return compare(parsed(before), parsed(after))


def draft_anew(base: BaseRulebook, person: Person | None) -> list[RulebookVersion]:
    """A new draft of each bridge that builds on a base, by the same text on the base's newest version.

    Raises:
        RulebookInvalid: the text of a bridge does not go with what the base says now.
    """
    return [
        write_draft(version.bridge, person, version.text, file=f"{version.bridge.slug}.yaml")
        for version in built_on(base)
    ]
