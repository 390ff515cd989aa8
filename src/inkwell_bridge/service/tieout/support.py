"""What somebody who helps needs to see, and nothing that tells of a person or opens an end."""

from __future__ import annotations

import json
import platform
import re
from collections.abc import Iterator
from typing import Any
from urllib.parse import urlsplit
from zipfile import ZIP_DEFLATED, ZipFile

import django
from django.conf import settings
from django.db import connection as database
from django.db.migrations.recorder import MigrationRecorder
from django.utils import timezone

from inkwell_bridge import __version__
from inkwell_bridge.service import vault
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage import runs
from inkwell_bridge.service.carriage.models import Run
from inkwell_bridge.service.connections.ends import owner_of
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Workspace
from inkwell_bridge.service.reference.models import Loading
from inkwell_bridge.service.tieout.waiting import holds

NEWEST = 20
HIDDEN = "•••"
# A secret of fewer letters would hide half of every word.
SHORTEST_SECRET = 4
# Whatever looks like an address: rather a word too many is hidden than a person told of.
_EMAIL = re.compile(r"[^\s\"<>@,;:()]{1,200}@[^\s\"<>@,;:()]{1,200}(?<!\.)")
_SHOWN_SETTINGS = ("SECURE", "ALLOWED_HOSTS", "END_TIMEOUT_SECONDS", "HEARTBEAT_SECONDS", "STALLED_AFTER_SECONDS",
                   "PAUSE_SECONDS")  # fmt: skip


def write_bundle(file: Any) -> None:
    """Write the bundle, a ZIP of JSON files; whatever an end may have repeated of its credentials is hidden, and so are
    e-mail addresses: a trouble may name who stopped a run, or whom an end spoke of."""
    secrets = sorted(_secrets(), key=len, reverse=True)
    with ZipFile(file, "w", ZIP_DEFLATED) as packed:
        for name, content in _contents():
            text = json.dumps(content, indent=2, default=str, ensure_ascii=False)
            for secret in secrets:
                text = text.replace(secret, HIDDEN)
            text = _EMAIL.sub(HIDDEN, text)
            packed.writestr(f"{name}.json", text)


def _secrets() -> set[str]:
    found: set[str] = set()
    for connection in Connection.objects.select_related("workspace").iterator():
        owner = owner_of(connection.workspace.slug, connection.slug)
        found |= set(vault.unseal_or_nothing(connection.credentials, owner=owner).values())
    return {secret for secret in found if len(secret) >= SHORTEST_SECRET}


def _contents() -> Iterator[tuple[str, Any]]:
    yield "about", _about()
    yield "migrations", sorted(f"{app}.{name}" for app, name in MigrationRecorder(database).applied_migrations())
    yield "queue", _queue()
    for workspace in Workspace.objects.order_by("slug"):
        yield f"workspace-{workspace.slug}", _workspace(workspace)


def _about() -> dict[str, Any]:
    guard = settings.END_GUARD
    return {
        "inkwell_bridge": __version__,
        "python": platform.python_version(),
        "django": django.get_version(),
        "postgresql": database.pg_version,
        "written_at": timezone.now(),
        "settings": {name: getattr(settings, name) for name in _SHOWN_SETTINGS},
        "ends_may_be": {"hosts": guard.hosts, "networks": [str(network) for network in guard.networks]},
    }


def _queue() -> list[dict[str, Any]]:
    with database.cursor() as cursor:
        cursor.execute("SELECT task_name, status, count(*) FROM procrastinate_jobs GROUP BY 1, 2 ORDER BY 1, 2")
        return [{"task": task, "status": status, "jobs": jobs} for task, status, jobs in cursor.fetchall()]


def _workspace(workspace: Workspace) -> dict[str, Any]:
    newest = list(Run.objects.filter(workspace=workspace).select_related("bridge").order_by("-pk")[:NEWEST])
    counts = runs.counts([run.pk for run in newest])
    loadings = Loading.objects.filter(workspace=workspace).select_related("connection").order_by("-pk")[:NEWEST]
    return {
        "connections": [_connection(one) for one in Connection.objects.filter(workspace=workspace).order_by("slug")],
        "bridges": [_bridge(one) for one in Bridge.objects.filter(workspace=workspace).prefetch_related("lanes")],
        "runs": [
            {"run": run.pk, "bridge": run.bridge.slug, "purpose": run.purpose, "state": run.state,
             "started_at": run.started_at, "ended_at": run.ended_at, "trouble": run.trouble, **counts[run.pk]}
            for run in newest
        ],
        "loadings": [
            {"connection": one.connection.slug, "part": one.part, "state": one.state, "read": one.read,
             "asked_at": one.asked_at, "ended_at": one.ended_at, "trouble": one.trouble}
            for one in loadings
        ],
        "holds": [{"cause": hold["cause"], "documents": hold["count"]} for hold in holds(workspace)],
    }  # fmt: skip


def _connection(connection: Connection) -> dict[str, Any]:
    fields = (
        "slug",
        "kind",
        "side",
        "state",
        "state_text",
        "checked_at",
        "last_contact_at",
        "key_expires_at",
        "version",
    )
    parts = urlsplit(connection.address)
    return {name: getattr(connection, name) for name in fields} | {"scheme": parts.scheme, "host": parts.hostname}


def _bridge(bridge: Bridge) -> dict[str, Any]:
    lanes = {lane.kind: lane.on for lane in bridge.lanes.all()}
    return {"slug": bridge.slug, "starts_on": bridge.starts_on, "lanes": lanes}
