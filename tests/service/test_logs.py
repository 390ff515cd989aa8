"""Logs carry numbers and ids: no value out of an error of the database."""

from __future__ import annotations

import io
import json
import logging

import psycopg
import pytest

from inkwell_bridge.launch.stack import Stack
from inkwell_bridge.service import logs
from tests.support.world import World

AGAIN = (
    "INSERT INTO people_person (password, email, name, is_active, created_at) "
    "VALUES ('', %(email)s, '', true, now()), ('', %(email)s, '', true, now())"
)
NO_NUMBER = "SELECT %(email)s::text::bigint"


@pytest.mark.parametrize("statement", [AGAIN, NO_NUMBER])
def test_what_the_database_repeats_is_hidden(stack: Stack, world: World, statement: str) -> None:
    """In the error's text and in the trace; which constraint it was stays."""
    email = f"marked-7f3a91@{world.slug}.example"
    written = io.StringIO()
    handler = logging.StreamHandler(written)
    handler.setFormatter(logs.formatter())
    log = logging.Logger("test")
    log.addHandler(handler)
    with psycopg.connect(stack.environment["DATABASE_URL"]) as database, pytest.raises(psycopg.Error) as caught:
        database.execute(statement, {"email": email})
    assert "marked-7f3a91" in str(caught.value), "or this proves nothing"
    log.error("statement.failed", exc_info=caught.value)
    log.error("it said: %s", caught.value)
    lines = [json.loads(line) for line in written.getvalue().splitlines()]
    assert len(lines) == 2
    assert "marked-7f3a91" not in written.getvalue()
    assert "(hidden)" in lines[0]["exception"]
    assert "psycopg" in lines[0]["exception"]
