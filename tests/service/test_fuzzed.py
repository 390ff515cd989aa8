"""Calls of every kind that the API's description allows, and of many that it does not."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from pathlib import Path

import pytest

from inkwell_bridge.client import Client
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.support.world import BRIDGE, LONG, OWNER, PASSWORD, World, new_world, with_few_orders

# A run by itself; ``./inkwell test --long`` makes some 50,000 calls.
EXAMPLES = 600 if LONG else 2
LEAST_CALLS = 20_000 if LONG else 1_500
# Names of what is there, so that calls reach more than "there is no such thing".
KNOWN = {"bridge": BRIDGE, "connection": "uk-books", "kind": "orders", "account": "current-account"}
CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"


@pytest.mark.timeout(7200 if LONG else 900)
def test_no_call_fails_us(stack: Stack, owner: str, tmp_path: Path) -> None:
    """No answer of 500 and above, none that the description does not know, each as it is described."""
    world = with_few_orders(new_world(stack, owner))
    world.run()
    demo_client.add_bank_account(world.calls)
    token = Client(stack.address).make_token(email=OWNER, password=PASSWORD, name="fuzzed", workspace=world.slug)
    found = run(world, token, tmp_path)
    told = json.loads((tmp_path / "report.json").read_text("utf-8"))
    assert found.returncode == 0, found.stdout[-8_000:]
    number = re.search(r"(\d+) generated", found.stdout)
    assert number, found.stdout[-2_000:]
    assert int(number[1]) > LEAST_CALLS, told


def run(world: World, token: str, folder: Path) -> subprocess.CompletedProcess[str]:
    """Schemathesis against the service, as its command is used."""
    names = "\n".join(f'"path.{name}" = "{value}"' for name, value in {**KNOWN, "workspace": world.slug}.items())
    (folder / "schemathesis.toml").write_text(f"[parameters]\n{names}\n", "utf-8")
    return subprocess.run(
        [
            str(Path(sys.executable).with_name("schemathesis")), "--config-file", str(folder / "schemathesis.toml"),
            "run", f"{world.stack.address}/api/v1/openapi.json", "--checks", CHECKS, "--max-examples", str(EXAMPLES),
            "--seed", "20261010", "--phases", "coverage,fuzzing", "--workers", "2", "--continue-on-failure",
            "--header", f"Authorization: Bearer {token}", "--no-shrink", "--suppress-health-check", "all",
            "--generation-database", "none", "--warnings", "off", "--no-color",
            # Its own session or token would be ended, and its own password would be tried a thousand times.
            "--exclude-operation-id-regex", "^(session|sessions|password|second_factor)_|^tokens_destroy$",
            "--report-json-path", str(folder / "report.json"),
        ],
        cwd=folder, text=True, capture_output=True, check=False,
    )  # fmt: skip
