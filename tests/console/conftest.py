"""The console in Debian's headless Chromium, against the running service."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from inkwell_bridge.launch import places
from inkwell_bridge.launch.stack import Stack
from tests.support.world import OWNER, PASSWORD

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
# A machine that runs all tests at once may be slow to draw.
expect.set_options(timeout=20_000)
AXE = places.root() / "console" / "node_modules" / "axe-core" / "axe.min.js"


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    """One browser for a module's tests."""
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield chromium
        chromium.close()


@pytest.fixture
def page(request: pytest.FixtureRequest, browser: Browser, stack: Stack) -> Iterator[Page]:
    """A page of one's own; it may ask nobody but the service (and the stand-ins that the mark ``goes_to`` names), and
    no script of it may fail."""
    context = browser.new_context(
        base_url=stack.address, viewport={"width": 1280, "height": 800}, locale="en-GB", reduced_motion="reduce"
    )
    context.set_default_timeout(20_000)
    made = context.new_page()
    goes_to = request.node.get_closest_marker("goes_to")
    may_ask = (stack.address, "data:", *(stack.standin(kind) for kind in (goes_to.args if goes_to else ())))
    asked: list[str] = []
    failed: list[str] = []
    made.on("request", lambda request: asked.append(request.url))
    made.on("pageerror", lambda error: failed.append(str(error)))
    made.on("console", lambda line: failed.append(line.text) if "Content Security Policy" in line.text else None)
    yield made
    context.close()
    assert [url for url in asked if not url.startswith(may_ask)] == []
    assert failed == []


@pytest.fixture
def signed_in(page: Page) -> Page:
    """A page whose person owns every workspace of these tests."""
    page.goto("/")
    page.get_by_label("E-mail").fill(OWNER)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_text("Marrowby of").or_(page.get_by_text("You have no role")).or_(
        page.get_by_role("heading", name="Today")
    ).first.wait_for()
    return page


def violations(page: Page) -> list[str]:
    """What axe finds wrong with a page (WCAG 2.2 A and AA)."""
    page.evaluate(AXE.read_text("utf-8"))
    found = page.evaluate(
        "axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']})"
    )
    return [f"{one['id']}: {one['nodes'][0]['html'][:160]}" for one in found["violations"]]


def rules_text(page: Page) -> str:
    """The text of the rules as it stands in the editor; only the lines in sight are in the page itself."""
    said = page.get_by_label("Text of the rules").evaluate("one => one.cmTile.root.view.state.doc.toString()")
    return str(said)


def rules_selected(page: Page) -> str:
    """What of it is selected."""
    said = page.get_by_label("Text of the rules").evaluate("one => one.getRootNode().getSelection().toString()")
    return str(said)


def write_rules(page: Page, text: str) -> None:
    """Put a text in the place of the rules that stand there, as somebody does who pastes it."""
    area = page.get_by_label("Text of the rules")
    area.press("Control+a")
    area.evaluate(
        """(one, text) => {
            const clipboardData = new DataTransfer();
            clipboardData.setData("text/plain", text);
            one.dispatchEvent(new ClipboardEvent("paste", {clipboardData, bubbles: true, cancelable: true}));
        }""",
        text,
    )
