"""A bridge's configuration in the console: taken out, held against another, applied."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.console.conftest import violations
from tests.support.world import BRIDGE, World, invoices_alone

OTHER = "second-bridge"


def test_a_bridge_is_made_like_another(signed_in: Page, world: World, tmp_path: Path) -> None:
    """What would change is said first; then it is applied, and nothing differs any more."""
    page = signed_in
    world.calls.create_bridge(
        slug=OTHER, name="Second bridge", source="web-shop", books="uk-books", company="marrowby-uk"
    )
    world.calls.bridge(OTHER).change(starts_on=date(2026, 10, 1))
    page.goto(f"/{world.slug}/bridges/{OTHER}")
    page.get_by_role("link", name="Configuration").click()
    expect(page.get_by_role("heading", name="Configuration of Second bridge")).to_be_visible()
    page.get_by_label("Bridge").select_option(BRIDGE)
    expect(page.get_by_text("There are no rules here yet; these would be the first.")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Apply ").click()
    expect(page.get_by_text("It is applied.")).to_be_visible()
    expect(page.get_by_role("link", name="Version 1 of the rules is in force")).to_be_visible()
    assert world.calls.bridge(OTHER).read().rulebook_in_force == 1
    page.reload()
    page.get_by_label("Bridge").select_option(BRIDGE)
    expect(page.get_by_text("There is no difference.")).to_be_visible()

    with page.expect_download() as download:
        page.get_by_role("link", name="Download").click()
    file = tmp_path / "mine.json"
    download.value.save_as(file)
    document = json.loads(file.read_text("utf-8"))
    assert document["rulebook"] == invoices_alone()
    document["rulebook"] = document["rulebook"].replace('"4000"', '"4999"')
    file.write_text(json.dumps(document), "utf-8")
    page.get_by_label("Or a file").set_input_files(file)
    expect(page.get_by_role("heading", name="1 thing is not here")).to_be_visible()
    expect(page.get_by_role("button", name="Apply 1 difference")).to_be_disabled()
    page.get_by_label("Without what is not here").check()
    page.get_by_label("Its rules stay a draft").check()
    page.get_by_role("button", name="Apply 1 difference").click()
    expect(page.get_by_role("link", name="Version 2 of the rules is a draft")).to_be_visible()
    file.write_text("no JSON", "utf-8")
    page.get_by_label("Or a file").set_input_files([])
    page.get_by_label("Or a file").set_input_files(file)
    expect(page.get_by_role("alert").filter(has_text="The file is no JSON")).to_be_visible()
    assert violations(page) == []
