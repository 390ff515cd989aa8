"""Where the command line finds the service: an address, a token and a workspace, kept for its owner alone."""

from __future__ import annotations

import json
import os
from dataclasses import asdict, dataclass
from pathlib import Path


@dataclass(frozen=True, slots=True, kw_only=True)
class Profile:
    """What ``inkwell sign-in`` remembers."""

    address: str = "http://127.0.0.1:8642"
    token: str = ""
    workspace: str = ""


def path() -> Path:
    """The file; ``INKWELL_PROFILE`` names another."""
    given = os.environ.get("INKWELL_PROFILE")
    base = Path(os.environ.get("XDG_CONFIG_HOME", Path.home() / ".config"))
    return Path(given) if given else base / "inkwell-bridge" / "profile.json"


def load() -> Profile:
    """What was remembered; the environment goes before it."""
    kept = json.loads(path().read_text("utf-8")) if path().is_file() else {}
    # A script in a pipeline brings its own, whatever somebody signed in as on that machine.
    for name in ("address", "token", "workspace"):
        if value := os.environ.get(f"INKWELL_{name.upper()}"):
            kept[name] = value
    return Profile(**kept)


def save(profile: Profile) -> None:
    """Remember it, in a file that only its owner can read."""
    path().parent.mkdir(parents=True, exist_ok=True)
    # Created so from the start: a file that is narrowed later could be read in between.
    descriptor = os.open(path(), os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "w", encoding="utf-8") as file:
        json.dump(asdict(profile), file)
