"""Take the README's pictures anew from a running demo: ``.venv/bin/python setup/screenshots.py``.

The command line is photographed in a terminal window of its own; that takes Debian's xvfb, xterm and imagemagick.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(os.environ.get("INKWELL_ROOT", "."))
HOME = Path(os.environ.get("INKWELL_HOME", ROOT / ".inkwell"))
SHOTS = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "screenshots"
SIZE = {"width": 1280, "height": 800}
COMMANDS = ("run web-shop-to-uk-books", "documents show MW-10006", "holds list")
SCREEN = ":77"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--lang=en-GB",
]


def main() -> None:
    """Sign in and photograph each page."""
    address = json.loads((HOME / "running.json").read_text("utf-8"))["address"]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport=SIZE, locale="en-GB")  # type: ignore[arg-type]
        page.goto(address)
        page.get_by_label("E-mail").fill("owner@inkwell.example")
        page.get_by_label("Password").fill((HOME / "demo-password").read_text("utf-8"))
        page.get_by_role("button", name="Sign in").click()
        page.get_by_text("It does not tie yet.").first.wait_for()
        page.get_by_text("Fetching run").first.wait_for(state="hidden")
        _shoot(page, "today")
        bridge = f"{address}/marrowby/bridges/web-shop-to-uk-books"
        for name, where in {"connection": f"{address}/marrowby/connections/uk-books", "setup": bridge,
                            "rules": f"{bridge}/rules", "links": f"{bridge}/links/products"}.items():  # fmt: skip
            page.goto(where)
            page.get_by_role("heading", level=1).wait_for()
            _shoot(page, name)
        _rules(page, bridge)
        page.goto(f"{bridge}/proposal")
        page.get_by_label("Orders from").fill("2026-10-01")
        page.get_by_label("To", exact=True).fill("2026-10-31")
        page.get_by_role("button", name="Learn from these orders").click()
        page.get_by_text("These rules explain").wait_for()
        _shoot(page, "proposal")
        page.goto(f"{address}/marrowby/holds")
        page.get_by_role("button", name="See what it would free").first.wait_for()
        page.get_by_role("button", name="Notices").click()
        page.get_by_text("orders held").first.wait_for()
        _shoot(page, "holds")
        page.goto(f"{address}/marrowby/runs")
        page.get_by_role("table").first.wait_for()
        _shoot(page, "runs")
        page.goto(f"{address}/marrowby/bank")
        page.get_by_role("list", name="Open lines").get_by_text("BULK CREDIT").click()
        page.get_by_role("list", name="Awaited").get_by_role("checkbox").first.check()
        page.get_by_text("left over").wait_for()
        page.evaluate("window.scrollTo(0, 0)")
        _shoot(page, "bank")
        page.goto(f"{address}/marrowby/clearing?account=uk-books/1250")
        page.get_by_label("From").fill("2026-10-01")
        page.get_by_label("To", exact=True).fill("2026-10-31")
        page.get_by_role("button", name="Prove this account").click()
        page.get_by_text("Both sides are the same").wait_for()
        _shoot(page, "clearing")
        page.get_by_role("link", name="Documents", exact=True).click()
        page.get_by_role("heading", name="Documents", level=1).wait_for()
        page.get_by_role("table").get_by_role("link", name="MW-10059").wait_for()
        _shoot(page, "documents")
        page.get_by_label("Number on either side").fill("MW-10063")
        page.keyboard.press("Enter")
        page.get_by_role("link", name="MW-10063").click()
        page.locator('[data-at="/documents/0/lines/0/net"]').hover()
        _shoot(page, "spread")
        page.goto(f"{address}/marrowby/tie-out?first=2026-10-01&last=2026-10-31")
        checked = page.get_by_role("region", name="Web shop to UK books")
        checked.get_by_role("button").click()
        checked.get_by_text("everything is here").wait_for()
        page.get_by_role("row", name="entered by hand").first.wait_for()
        page.evaluate("window.scrollTo(0, 0)")
        _shoot(page, "tie-out")
        _command_line(address)
        _requests(page, address)
        _changed(page, address)
        browser.close()


def _requests(page: Page, address: str) -> None:
    """Invoices of the books that are asked for by link."""
    bridge = "weirgate-to-uk-books"
    for lane in ("requests", "request_payments"):
        _inkwell(["bridges", "lane", bridge, lane, "on"])
    _inkwell(["run", bridge, "--lane", "requests", "--lane", "request_payments"])
    page.goto(f"{address}/marrowby/requests")
    page.get_by_text("SI-09001").first.wait_for()
    _shoot(page, "requests")


def _changed(page: Page, address: str) -> None:
    """An order whose customer changed their mind after it was carried; the last, for it changes the demo's books."""
    for command in (["demo", "afterwards"], ["run", "web-shop-to-uk-books"]):
        _inkwell(command)
    page.goto(f"{address}/marrowby/documents?search=MW-10119")
    page.get_by_role("link", name="MW-10119").click()
    change = page.get_by_role("heading", name="Change 1 at the sales side")
    change.click()
    change.evaluate("(head) => window.scrollTo(0, head.getBoundingClientRect().top - 120)")
    page.locator('[data-at="/documents/2/lines/0/net"]').hover()
    _shoot(page, "changed")


def _inkwell(command: list[str]) -> None:
    environment = {**os.environ, "INKWELL_PROFILE": str(HOME / "profile.json")}
    subprocess.run(
        [Path(sys.executable).parent / "inkwell", *command], env=environment, check=True, capture_output=True
    )


def _rules(page: Page, bridge: str) -> None:
    """What October's orders hold, a class mapped from its suggestion, the draft rehearsed, and as fields."""
    page.goto(f"{bridge}/rehearsal")
    _rehearse_october(page)
    page.get_by_role("button", name="Coverage").click()
    page.get_by_role("button", name="Map to R05").wait_for()
    _shoot(page, "coverage")
    page.get_by_role("button", name="Map to R05").click()
    page.get_by_text("maps it, as a draft").wait_for()
    page.goto(f"{bridge}/rehearsal")
    _rehearse_october(page)
    page.get_by_role("button", name="MW-10031").click()
    page.get_by_role("region", name="After").wait_for()
    _shoot(page, "rehearsal")


def _rehearse_october(page: Page) -> None:
    page.get_by_label("From", exact=True).fill("2026-10-01")
    page.get_by_label("To", exact=True).fill("2026-10-31")
    page.get_by_role("button", name="Rehearse", exact=True).click()
    page.get_by_role("region", name="What it came to").wait_for()


def _shoot(page: Page, name: str) -> None:
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=SHOTS / f"{name}.png")


def _command_line(address: str) -> None:
    """Sign in, and photograph a terminal that shows some commands."""
    inkwell = Path(sys.executable).parent / "inkwell"
    with tempfile.TemporaryDirectory() as folder:
        password = (HOME / "demo-password").read_text("utf-8")
        environment = {**os.environ, "INKWELL_PROFILE": f"{folder}/profile.json", "DISPLAY": SCREEN,
                       "INKWELL_PASSWORD": password}  # fmt: skip
        signing_in = [inkwell, "sign-in", "--address", address, "--email", "owner@inkwell.example"]
        subprocess.run(signing_in, env=environment, check=True, capture_output=True)
        subprocess.run([inkwell, "use", "marrowby"], env=environment, check=True, capture_output=True)
        done = Path(folder) / "done"
        script = Path(folder) / "commands"
        script.write_text(
            "".join(f'echo "$ ./inkwell {one}"; {inkwell} {one}; echo\n' for one in COMMANDS)
            + f"touch {done}; sleep 60\n",
            "utf-8",
        )
        screen = subprocess.Popen([_there("Xvfb"), SCREEN, "-screen", "0", "1280x800x24"], stderr=subprocess.DEVNULL)
        socket = Path(f"/tmp/.X11-unix/X{SCREEN[1:]}")  # noqa: S108 where every X server has its own
        until = time.monotonic() + 60
        while not socket.exists() and time.monotonic() < until:
            time.sleep(0.1)
        window = ["-geometry", "210x61+0+0", "-fa", "DejaVu Sans Mono", "-fs", "10", "-bg", "#faf7ee", "-fg", "#1d2233"]
        terminal = subprocess.Popen([_there("xterm"), *window, "+sb", "-e", "bash", str(script)], env=environment)
        while not done.exists() and time.monotonic() < until:
            time.sleep(0.2)
        time.sleep(0.5)
        shot = [_there("import"), "-window", "root", SHOTS / "command-line.png"]
        subprocess.run(shot, env=environment, check=True)
        terminal.terminate()
        screen.terminate()


def _there(program: str) -> str:
    found = shutil.which(program)
    if found is None:
        raise SystemExit(f"The picture of the command line takes {program}: apt-get install xvfb xterm imagemagick")
    return found


if __name__ == "__main__":
    main()
