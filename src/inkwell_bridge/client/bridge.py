"""Calls about one bridge."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from typing import Any

from inkwell_bridge.client import models
from inkwell_bridge.client.links import LinkCalls
from inkwell_bridge.client.period import days
from inkwell_bridge.client.transport import Transport


class BridgeCalls:
    """Calls about one bridge."""

    def __init__(self, transport: Transport, path: str) -> None:
        self._transport, self._path = transport, path

    def read(self) -> models.Bridge:
        """It, with its lanes and timetable."""
        return self._transport.one(models.Bridge, "GET", self._path)

    def switch_lane(self, kind: str, *, on: bool) -> models.Lane:
        """Switch a kind of document on or off."""
        return self._transport.one(models.Lane, "PATCH", f"{self._path}/lanes/{kind}", body={"on": on})

    def rulebooks(self) -> Iterator[models.RulebookHead]:
        """The versions of its rules, newest first."""
        return self._transport.pages(models.RulebookHead, f"{self._path}/rulebooks")

    def rulebook(self, number: int) -> models.Rulebook:
        """One version."""
        return self._transport.one(models.Rulebook, "GET", f"{self._path}/rulebooks/{number}")

    def starter(self) -> str:
        """Rules to start from, made from the reference data of both ends: each choice is marked as proposed."""
        return str(self._transport.send("GET", f"{self._path}/rulebooks/starter")["text"])

    def write_rulebook(
        self, text: str, *, file: str = "rulebook.yaml", after: int | None = None, note: str = ""
    ) -> models.Rulebook:
        """Write a draft; ``file`` is the name that errors call it by.

        Raises:
            Conflict: with ``after``, where there is a newer version than that; its members have a text with both
                changes (``merged``), and what both changed otherwise (``conflicts``).
        """
        body = {"text": text, "file": file, "note": note} | ({"after": after} if after is not None else {})
        return self._transport.one(models.Rulebook, "POST", f"{self._path}/rulebooks", body=body)

    def publish_rulebook(self, number: int, *, file: str = "rulebook.yaml", note: str = "") -> models.Rulebook:
        """Put a draft in force."""
        path = f"{self._path}/rulebooks/{number}/publish"
        return self._transport.one(models.Rulebook, "POST", path, query={"file": file}, body={"note": note})

    def take_up_rulebook_again(self, number: int) -> models.Rulebook:
        """Put a version that was in force before in force again, as a new one of the same text."""
        return self._transport.one(models.Rulebook, "POST", f"{self._path}/rulebooks/{number}/take-up-again")

    def rule_changes(self, number: int, *, since: int | None = None) -> list[models.RuleChange]:
        """What is otherwise in a version than in the one in force, or in the one named."""
        return self._transport.several(
            models.RuleChange, "GET", f"{self._path}/rulebooks/{number}/changes", query={"since": since}
        )

    def edit_rulebook(self, text: str, operations: Sequence[Mapping[str, Any]] = ()) -> models.Edited:
        """A text of rules after these operations of a JSON Patch (RFC 6902), and what is wrong with it; nothing is
        kept."""
        body = {"text": text, "operations": [dict(one) for one in operations]}
        return self._transport.one(models.Edited, "POST", f"{self._path}/rulebooks/edit", body=body)

    def send_on_trial(self, number: str, *, rulebook: int | None = None) -> models.Run:
        """Carry one order for real, as drafts in the books: read back and proved, and nothing is posted. Without
        ``rulebook`` under the version in force, or the newest where none is."""
        body = {"number": number, **({} if rulebook is None else {"rulebook": rulebook})}
        return self._transport.one(models.Run, "POST", f"{self._path}/trials", body=body)

    def rehearsals(self) -> Iterator[models.RehearsalHead]:
        """Its rehearsals, newest first."""
        return self._transport.pages(models.RehearsalHead, f"{self._path}/rehearsals")

    def rehearse(
        self, *, rulebook: int | None = None, since: int | None = None, compare: bool = True,
        first: date | None = None, last: date | None = None,
    ) -> models.Rehearsal:  # fmt: skip
        """Have past documents planned under a version of the rules, in the background; nothing is sent.

        Without ``rulebook`` the newest version, without ``since`` the one in force; without ``compare`` coverage alone
        is asked for. Without days, the last whole month.
        """
        named = {name: value for name, value in (("rulebook", rulebook), ("since", since)) if value is not None}
        body = {"compare": compare, **named, **days(first, last)}
        return self._transport.one(models.Rehearsal, "POST", f"{self._path}/rehearsals", body=body)

    def proposals(self) -> Iterator[models.ProposalHead]:
        """Its proposals of rules, newest first."""
        return self._transport.pages(models.ProposalHead, f"{self._path}/proposals")

    def propose(self, *, first: date | None = None, last: date | None = None, least: int = 2) -> models.Proposal:
        """Have rules learnt in the background from past orders and what the books hold for them, whoever entered it.

        Both ends are only read. ``least`` is how many examples a rule beside the usual one must have. Without days, of
        the last whole month.
        """
        body = {"least": least, **days(first, last)}
        return self._transport.one(models.Proposal, "POST", f"{self._path}/proposals", body=body)

    def source_documents(self, *, first: date | None = None, last: date | None = None) -> Iterator[bytes]:
        """Its source documents as they were last fetched, without people, as JSON Lines: ``kind`` and ``document`` in
        each; without days, of the last whole month."""
        return self._transport.chunks(f"{self._path}/source-documents", query=days(first, last))

    def configuration(self, *, links: bool = True) -> dict[str, Any]:
        """All that it was set up with, as one document (bridge-configuration-1); never a secret."""
        found: dict[str, Any] = self._transport.send("GET", f"{self._path}/configuration", query={"links": links})
        return found

    def compare_configuration(self, there: Mapping[str, Any] | str) -> models.ConfigurationComparison:
        """What would change here if a configuration were applied, and what it names that is not here: a document, or
        the name of another bridge. Nothing is kept."""
        return self._with_configuration(f"{self._path}/configuration/compare", there, {})

    def apply_configuration(
        self, there: Mapping[str, Any] | str, *, leave_missing: bool = False, publish: bool = True
    ) -> models.ConfigurationComparison:
        """Set it up like that, all of it or nothing: a document, or the name of another bridge.

        ``leave_missing``: without what is not here; without ``publish`` its rules stay a draft.
        """
        flags = {"leave_missing": str(leave_missing).lower(), "publish": str(publish).lower()}
        return self._with_configuration(f"{self._path}/configuration/apply", there, flags)

    def _with_configuration(
        self, path: str, there: Mapping[str, Any] | str, form: Mapping[str, str]
    ) -> models.ConfigurationComparison:
        if isinstance(there, str):
            file, form = None, {**form, "bridge": there}
        else:
            file = ("file", "configuration.json", json.dumps(there).encode())
        return self._transport.one(models.ConfigurationComparison, "POST", path, form=form, file=file)

    def set_timetable(self, said: str = "", *, lane: str = "", **given: Any) -> models.WholeTimetable:
        """Let it, or one ``lane`` of it, run by itself: ``said`` in words, such as ``every hour on weekdays``.

        Instead of words: ``every_minutes``, ``daily_at``, ``rule`` (RFC 5545) or ``table`` (in fields);
        ``time_zone`` beside any of them.
        """
        body = _said_of_timetable(said, given)
        return self._transport.one(models.WholeTimetable, "PUT", self._timetable_of(lane), body=body)

    def try_timetable(self, said: str = "", **given: Any) -> models.TriedTimetable:
        """What a timetable would be; given as for :meth:`set_timetable`."""
        body = _said_of_timetable(said, given)
        return self._transport.one(models.TriedTimetable, "POST", f"{self._path}/timetable/try", body=body)

    def timetable(self, *, lane: str = "") -> models.WholeTimetable:
        """When it, or one lane of it, runs by itself."""
        return self._transport.one(models.WholeTimetable, "GET", self._timetable_of(lane))

    def remove_timetable(self, *, lane: str = "") -> None:
        """Let it run by hand alone; a lane, whenever the bridge does."""
        self._transport.send("DELETE", self._timetable_of(lane))

    def _timetable_of(self, lane: str) -> str:
        return f"{self._path}/lanes/{lane}/timetable" if lane else f"{self._path}/timetable"

    def pause(self) -> models.Bridge:
        """Let nothing cross until it goes on."""
        return self._transport.one(models.Bridge, "PUT", f"{self._path}/pause")

    def go_on(self) -> models.Bridge:
        """Let it go on."""
        return self._transport.one(models.Bridge, "DELETE", f"{self._path}/pause")

    def change(self, **fields: Any) -> models.Bridge:
        """Change its name, or ``starts_on``, the day from which it carries."""
        told = {name: value.isoformat() if isinstance(value, date) else value for name, value in fields.items()}
        return self._transport.one(models.Bridge, "PATCH", self._path, body=told)

    def remove(self, *, confirm: bool = False) -> None:
        """Remove it; what was carried stays to be read.

        Raises:
            NotConfirmed: without ``confirm``, with what would end.
        """
        self._transport.send("DELETE", self._path, query={"confirm": "true"} if confirm else None)

    def setup(self) -> list[models.Step]:
        """How far its set-up is, in the order of the work."""
        return self._transport.several(models.Step, "GET", f"{self._path}/setup")

    def opening(self) -> models.Opening:
        """Its opening balances, and what became of them."""
        return self._transport.one(models.Opening, "GET", f"{self._path}/opening")

    def enter_opening(self, *, against: str, balances: Sequence[Mapping[str, str]]) -> models.Opening:
        """Enter the balances of the cut-over: ``of``, ``amount``, and for a clearing balance its ``account``."""
        body = {"against": against, "balances": [dict(one) for one in balances]}
        return self._transport.one(models.Opening, "PUT", f"{self._path}/opening", body=body)

    def try_order(self, number: str, *, rulebook: int | None = None, text: str | None = None) -> models.Tried:
        """What an order would become, by the version of the rules in force, the one named, or a ``text`` that is not
        kept; nothing is sent."""
        given = {"rulebook": rulebook, "text": text}
        body = {"number": number, **{name: value for name, value in given.items() if value is not None}}
        return self._transport.one(models.Tried, "POST", f"{self._path}/try", body=body)

    def run(
        self, *numbers: str, lanes: Sequence[str] = (), first_day: date | None = None, last_day: date | None = None
    ) -> models.Run:
        """Start a run: of everything that is new, of some lanes or days alone, or of the orders named, whatever lanes
        are on."""
        said = {"numbers": list(numbers), "lanes": list(lanes)}
        days = {"first_day": first_day and first_day.isoformat(), "last_day": last_day and last_day.isoformat()}
        body = {name: value for name, value in {**said, **days}.items() if value}
        return self._transport.one(models.Run, "POST", f"{self._path}/runs", body=body)

    def adopt(self) -> models.Run:
        """Adopt, in a run, what the books hold under our marks and nobody here knows of."""
        return self._transport.one(models.Run, "POST", f"{self._path}/adopt")

    def links(self, kind: str) -> LinkCalls:
        """Calls about its links of a kind: products or customers."""
        return LinkCalls(self._transport, f"{self._path}/links/{kind}")


def _said_of_timetable(said: str, given: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in {"words": said or None, **given}.items() if value is not None}
