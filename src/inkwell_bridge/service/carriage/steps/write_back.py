"""Telling the sales side what became of its document, once that stands in the books and is proved."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.values import Value
from inkwell_bridge.ends.errors import EndError, NotOffered, OutcomeUnknown, Refused, Temporary
from inkwell_bridge.ends.shapes import WriteBack
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.effects import Call, Effects
from inkwell_bridge.service.carriage.log import timed
from inkwell_bridge.service.carriage.models import Exchange
from inkwell_bridge.service.carriage.states import EventKind, Trial
from inkwell_bridge.service.connections.ends import sales_end
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.later import TryLater, after_pause


def write_back(carrying: Carrying) -> Effects[None]:
    """Write to the bridge's sales side what the kind has to say there, each after the other.

    Calls: one for each that was not written before. Repeated after an interruption, it writes the same again, which
    changes nothing there. A refusal is told as a warning
    and holds nothing up, for the documents stand.

    Raises:
        TryLater: the sales side cannot be reached, or did not say whether it was done.
    """
    # What differs is for a person first, and what is on trial may be taken back; the sales side hears of what stands.
    if carrying.crossing.trial != Trial.NONE:
        return
    if any(finding.level is Level.ERROR for finding in carrying.findings):
        return
    sales = carrying.crossing.bridge.source
    crossing = carrying.crossing
    for what in carrying.kind.written_back(carrying):
        said = said_of(what)
        if said in crossing.written_back:
            continue
        reference = carrying.documents[0].external_reference if carrying.documents else ""
        kept = Exchange(
            workspace_id=crossing.workspace_id, connection=sales, call="write back", sent=said,
            external_reference=reference,
        )  # fmt: skip
        carrying.exchanges.append(kept)
        try:
            yield Call(timed(kept, lambda what=what: sales_end(sales).write_back(what)))  # type: ignore[misc]
        except (Temporary, OutcomeUnknown) as error:
            kept.failure = str(error)
            asked = error.retry_after_seconds if isinstance(error, Temporary) else None
            raise TryLater(str(error), after_pause(crossing.tries, asked)) from error
        except (Refused, NotOffered) as error:
            kept.failure = str(error)
            carrying.findings.append(_refused(sales, error))
        else:
            crossing.written_back = [*crossing.written_back, said]
            carrying.happened(EventKind.REPORTED, what=said["what"])


def said_of(what: WriteBack) -> dict[str, Any]:
    """What is written, as JSON values for the record of calls."""
    return {"what": type(what).__name__} | {one.name: _json(getattr(what, one.name)) for one in fields(what)}


def _json(value: Any) -> Any:
    if isinstance(value, tuple):
        return [_json(one) for one in value]
    return value.as_json() if isinstance(value, Value) else value


def _refused(sales: Connection, error: EndError) -> Finding:
    return Finding(
        id="BACK-W001",
        level=Level.WARNING,
        text=f"Nothing was written back to {sales.name}: {error}",
        hint="The documents stand in the books. Give the connection the right to write, or write it there by hand.",
    )
