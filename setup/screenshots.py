"""Take the README's pictures anew from a running demo: ``.venv/bin/python setup/screenshots.py``."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(os.environ.get("INKWELL_ROOT", "."))
HOME = Path(os.environ.get("INKWELL_HOME", ROOT / ".inkwell"))
SHOTS = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "screenshots"
SIZE = {"width": 1280, "height": 800}
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
        _shoot(page, "sign-in")
        page.get_by_label("E-mail").fill("owner@inkwell.example")
        page.get_by_label("Password").fill((HOME / "demo-password").read_text("utf-8"))
        page.get_by_role("button", name="Sign in").click()
        page.get_by_text("They tie").first.wait_for()
        _shoot(page, "today")
        bridge = f"{address}/marrowby/bridges/web-shop-to-uk-books"
        for name, where in {"connection": f"{address}/marrowby/connections/uk-books", "setup": bridge,
                            "rules": f"{bridge}/rules", "links": f"{bridge}/links/products"}.items():  # fmt: skip
            page.goto(where)
            page.get_by_role("heading", level=1).wait_for()
            _shoot(page, name)
        page.get_by_role("link", name="Documents").click()
        page.get_by_role("link", name="MW-10059").wait_for()
        _shoot(page, "documents")
        page.get_by_label("Number on either side").fill("MW-10063")
        page.keyboard.press("Enter")
        page.get_by_role("link", name="MW-10063").click()
        page.locator('[data-at="/documents/0/lines/0/net"]').hover()
        _shoot(page, "spread")
        browser.close()


def _shoot(page: Page, name: str) -> None:
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=SHOTS / f"{name}.png")


if __name__ == "__main__":
    main()
