"""Installing both from the package registries, by their lock files, apart from everything of ours."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
import venv
from collections.abc import Callable
from pathlib import Path

from peers.places import TRYTON, VENDURE

Say = Callable[[str], None]
PYTHON = TRYTON / ".venv" / "bin"


class InstallFailed(Exception):
    """A package could not be installed; the text ends with what the installer said."""


def install_tryton(say: Say) -> None:
    """Tryton and its modules, in a virtual environment of their own."""
    lock, stamp = TRYTON / "requirements.txt", TRYTON / ".venv" / ".installed"
    if _installed(lock, stamp):
        return
    say("Installing Tryton 7.0 from the package registry.")
    shutil.rmtree(TRYTON / ".venv", ignore_errors=True)
    venv.create(TRYTON / ".venv", with_pip=True)
    _run(str(PYTHON / "pip"), "install", "-q", "--disable-pip-version-check", "--require-hashes", "-r", str(lock))
    stamp.write_text(digest(lock), "utf-8")


def install_vendure(say: Say) -> None:
    """Vendure, with no script of any package run."""
    lock, stamp = VENDURE / "package-lock.json", VENDURE / "node_modules" / ".installed"
    if _installed(lock, stamp):
        return
    say("Installing Vendure 3 from the package registry.")
    _run("npm", "ci", "--ignore-scripts", "--no-audit", "--no-fund", "--loglevel=error", "--no-update-notifier",
         cwd=VENDURE)  # fmt: skip
    stamp.write_text(digest(lock), "utf-8")


def digest(*files: Path) -> str:
    """A short name for what these files hold."""
    whole = hashlib.blake2b(digest_size=6)
    for file in files:
        whole.update(file.read_bytes())
    return whole.hexdigest()


def _installed(lock: Path, stamp: Path) -> bool:
    return stamp.exists() and stamp.read_text("utf-8") == digest(lock)


def _run(*command: str, cwd: Path | None = None) -> None:
    # A Node that came from the registry lies beside our own Python.
    path = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
    done = subprocess.run(command, cwd=cwd, env={**os.environ, "PATH": path}, text=True, capture_output=True,
                          check=False)  # fmt: skip
    if done.returncode:
        raise InstallFailed(f"{command[0]} failed:\n{(done.stdout + done.stderr)[-1500:]}")
