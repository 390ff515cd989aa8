"""Write what somebody who helps needs to see."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from inkwell_bridge.service.tieout.support import write_bundle


class Command(BaseCommand):
    """``support_bundle FILE.zip``: versions, settings, states, counts and troubles; no secret, no person, no amount."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to write it."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Write it, for its owner alone."""
        file: Path = options["file"]
        file.touch(mode=0o600)
        with file.open("wb") as opened:
            write_bundle(opened)
        self.stdout.write(f"Written to {file}. Look into it before you send it.")
