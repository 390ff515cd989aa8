"""Telling an end what became of its document, once that stands where it goes and is proved."""

from __future__ import annotations

from dataclasses import fields
from functools import partial
from typing import Any

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.values import Value
from inkwell_bridge.ends.errors import EndError, NotOffered, OutcomeUnknown, Refused, Temporary
from inkwell_bridge.ends.shapes import SetFields, WriteBack
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.effects import Call, Effects
from inkwell_bridge.service.carriage.log import timed
from inkwell_bridge.service.carriage.models import Exchange
from inkwell_bridge.service.carriage.states import EventKind, Trial
from inkwell_bridge.service.connections.ends import books_end, sales_end
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.later import TryLater, after_pause


def write_back(carrying: Carrying) -> Effects[None]:
    """Write what the kind has to say to the bridge's sales side, and fields of an invoice to its books, one after the
    other.

    Calls: one for each that was not written before. Repeated after an interruption, it writes the same again, which
    changes nothing there. A refusal is told as a warning
    and holds nothing up, for the documents stand.

    Raises:
        TryLater: the end cannot be reached, or did not say whether it was done.
    """
    # What differs is for a person first, and what is on trial may be taken back; the sales side hears of what stands.
    if carrying.crossing.trial != Trial.NONE:
        return
    if any(finding.level is Level.ERROR for finding in carrying.findings):
        return
    crossing = carrying.crossing
    for what in carrying.kind.written_back(carrying):
        said = said_of(what)
        if said in crossing.written_back:
            continue
        reference = carrying.documents[0].external_reference if carrying.documents else ""
        end = crossing.bridge.books if isinstance(what, SetFields) else crossing.bridge.source
        kept = Exchange(
            workspace_id=crossing.workspace_id, connection=end, call="write back", sent=said,
            external_reference=reference,
        )  # fmt: skip
        carrying.exchanges.append(kept)
        try:
            yield Call(timed(kept, partial(_write, end, what)))
        except (Temporary, OutcomeUnknown) as error:
            kept.failure = str(error)
            asked = error.retry_after_seconds if isinstance(error, Temporary) else None
            raise TryLater(str(error), after_pause(crossing.tries, asked)) from error
        except (Refused, NotOffered) as error:
            kept.failure = str(error)
            carrying.findings.append(_refused(end, error))
        else:
            crossing.written_back = [*crossing.written_back, said]
            carrying.happened(EventKind.REPORTED, what=said["what"])


def _write(end: Connection, what: WriteBack) -> None:
    if isinstance(what, SetFields):
        books_end(end).note_on(Role.INVOICE, what.id, what.fields)
    else:
        sales_end(end).write_back(what)


def said_of(what: WriteBack) -> dict[str, Any]:
    """What is written, as JSON values for the record of calls."""
    return {"what": type(what).__name__} | {one.name: _json(getattr(what, one.name)) for one in fields(what)}


def _json(value: Any) -> Any:
    if isinstance(value, tuple):
        return [_json(one) for one in value]
    return value.as_json() if isinstance(value, Value) else value


def _refused(end: Connection, error: EndError) -> Finding:
    return Finding(
        id="BACK-W001",
        level=Level.WARNING,
        text=f"Nothing was written back to {end.name}: {error}",
        hint="The documents themselves stand. Give the connection the right to write, or write it there by hand.",
    )
