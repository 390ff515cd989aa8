"""One's own account in the browser: password, second factor, sessions; and coming in by mail or elsewhere."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Iterator

import pyotp
import pytest
from playwright.sync_api import Browser, Page, expect

from inkwell_bridge.client import Client
from inkwell_bridge.launch import places
from inkwell_bridge.launch.stack import Stack
from tests.console.conftest import violations
from tests.support.browser import Visitor
from tests.support.mail import MailServer, mail_server
from tests.support.openid import CLIENT, SECRET, Provider, openid_provider
from tests.support.world import FAST, PASSWORD, World, first_owner, joined, running, wait_for

ANOTHER = "another-long-password"


@pytest.fixture
def wren(world: World) -> str:
    """Somebody with a role."""
    email = f"wren@{world.slug}.example"
    joined(world.calls, email=email, role="edit", name="Wren Dalby")
    return email


def sign_in(page: Page, email: str, password: str = PASSWORD) -> None:
    """Fill in the first page."""
    page.goto("/")
    page.get_by_label("E-mail").fill(email)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in", exact=True).click()


def to_the_account(page: Page) -> None:
    """By the menu of one's name."""
    page.get_by_role("button", name="Wren Dalby").click()
    page.get_by_role("menuitem", name="Your account").click()
    page.get_by_role("heading", name="Your account").wait_for()


@pytest.mark.parametrize("width", [1280, 390])
def test_the_second_factor_is_turned_on_and_asked_for(page: Page, world: World, wren: str, width: int) -> None:
    """From the secret to the code at the next sign-in; by a recovery code it is turned off again."""
    page.set_viewport_size({"width": width, "height": 800})
    sign_in(page, wren)
    to_the_account(page)
    region = page.get_by_role("region", name="Second factor")
    region.get_by_label("Your password").fill(PASSWORD)
    region.get_by_role("button", name="Set it up").click()
    app = pyotp.TOTP(region.locator("code").inner_text())
    assert violations(page) == []
    region.get_by_label("Code").fill("000000")
    region.get_by_role("button", name="Turn it on").click()
    expect(region.get_by_role("alert")).to_contain_text("This is not the code that the app shows now.")
    region.get_by_label("Code").fill(app.at(int(time.time()) - 30))
    region.get_by_role("button", name="Turn it on").click()
    expect(region).to_contain_text("Keep these recovery codes now")
    codes = region.get_by_role("status").get_by_role("listitem").all_inner_texts()
    assert len(codes) == 10
    expect(region).to_contain_text("10 recovery codes left")
    assert violations(page) == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")

    page.get_by_role("button", name="Wren Dalby").click()
    page.get_by_role("menuitem", name="Sign out").click()
    sign_in(page, wren)
    page.get_by_label("Code of your authenticator app").fill(app.now())
    page.get_by_role("button", name="Sign in", exact=True).click()
    page.get_by_role("heading", name="Today").wait_for()
    to_the_account(page)
    region.get_by_label("Your password").fill(PASSWORD)
    region.get_by_label("Code of your authenticator app").fill(codes[0])
    region.get_by_role("button", name="Turn it off").click()
    expect(region.get_by_role("button", name="Set it up")).to_be_visible()


def test_the_password_is_changed_and_other_browsers_are_ended(page: Page, world: World, wren: str) -> None:
    """What is wrong is said; the page that asks stays signed in."""
    elsewhere, further = Visitor(world.stack.address, agent="Spindle"), Visitor(world.stack.address, agent="Distaff")
    for visitor in (elsewhere, further):
        visitor.sign_in(wren)
    sign_in(page, wren)
    to_the_account(page)
    browsers = page.get_by_role("region", name="Where you are signed in")
    expect(browsers.get_by_text("this one", exact=True)).to_be_visible()
    browsers.get_by_role("listitem").filter(has_text="Spindle").get_by_role("button", name="End").click()
    expect(browsers.get_by_text("Spindle")).to_have_count(0)
    assert (elsewhere.is_in, further.is_in) == (False, True)
    region = page.get_by_role("region", name="Password")
    region.get_by_label("Your password").fill(PASSWORD)
    region.get_by_label("The new password").fill("password1234")
    region.get_by_role("button", name="Change the password").click()
    expect(region.get_by_role("alert")).to_contain_text("too common")
    region.get_by_label("The new password").fill(ANOTHER)
    region.get_by_role("button", name="Change the password").click()
    expect(region.get_by_text("Your password is changed.")).to_be_visible()
    assert not further.is_in
    assert elsewhere.sign_in(wren, ANOTHER).status_code == 200
    page.reload()
    expect(browsers.get_by_text("Spindle")).to_be_visible()
    browsers.get_by_role("button", name="End all but this one").click()
    expect(browsers.get_by_text("Spindle")).to_have_count(0)
    assert not elsewhere.is_in


@pytest.fixture(scope="module")
def mail() -> Iterator[MailServer]:
    """Where mail goes."""
    with mail_server() as server:
        yield server


@pytest.fixture(scope="module")
def provider() -> Iterator[Provider]:
    """Who says who people are."""
    with openid_provider() as server:
        yield server


@pytest.fixture(scope="module")
def in_earnest(
    mail: MailServer, provider: Provider, new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory
) -> Iterator[Stack]:
    """A service with a mail server and a provider of identities."""
    told = {"INKWELL_SMTP": mail.address, "INKWELL_OPENID_ISSUER": provider.issuer, "INKWELL_OPENID_CLIENT": CLIENT,
            "INKWELL_OPENID_SECRET": SECRET, "INKWELL_OPENID_NAME": "Loom"}  # fmt: skip
    made = Stack(database_url=new_database("earnest"), home=tmp_path_factory.mktemp("earnest"),
                 console=places.console(), extra={**FAST, **told})  # fmt: skip
    with running(made):
        yield made


@pytest.fixture
def visitor(browser: Browser, in_earnest: Stack) -> Iterator[Page]:
    """A page of that service; it goes to the provider as well."""
    context = browser.new_context(base_url=in_earnest.address, locale="en-GB", reduced_motion="reduce")
    context.set_default_timeout(20_000)
    yield context.new_page()
    context.close()


def test_a_forgotten_password_in_the_browser(visitor: Page, in_earnest: Stack, mail: MailServer) -> None:
    """From the first page to the mail, its link, and signing in with what was chosen."""
    email = "forgetful@loom.example"
    in_earnest.administer("open_workspace", "loom", "--name", "Loom", "--owner", email, given=f"{PASSWORD}\n")
    visitor.goto("/")
    visitor.get_by_role("link", name="Forgotten your password?").click()
    # Both pages ask for an e-mail: it is the second that is meant.
    expect(visitor.get_by_text("We mail you a link")).to_be_visible()
    visitor.get_by_label("E-mail").fill(email)
    assert violations(visitor) == []
    visitor.get_by_role("button", name="Send the link").click()
    expect(visitor.get_by_role("status")).to_contain_text("a link is on its way")
    link = wait_for(lambda: re.search(r"http://\S+/password#\S+", "".join(mail.messages)), seconds=20, what="the mail")
    visitor.goto("about:blank")
    visitor.goto(link[0])
    visitor.get_by_label("The new password").fill(ANOTHER)
    assert violations(visitor) == []
    visitor.get_by_role("button", name="Choose it").click()
    visitor.get_by_role("link", name="Sign in").click()
    sign_in(visitor, email, ANOTHER)
    visitor.get_by_role("heading", name="Today").wait_for()


def test_signing_in_and_joining_through_the_provider(
    visitor: Page, in_earnest: Stack, provider: Provider, mail: MailServer
) -> None:
    """Who was not invited is told why; by an invitation they come in, and afterwards by the button alone."""
    provider.person = {"sub": "1", "email": "bram@loom.example", "email_verified": True, "name": "Bram Okafor"}
    visitor.goto("/")
    visitor.get_by_role("button", name="Sign in with Loom").click()
    expect(visitor.get_by_role("alert")).to_contain_text("Ask an owner to invite it.")
    assert violations(visitor) == []
    calls = Client(in_earnest.address, token=first_owner(in_earnest)).workspace("first")
    calls.invite(email="bram@loom.example", role="see")
    link = re.search(r"http://\S+/invitation#\S+", "".join(mail.messages))
    assert link
    visitor.goto(link[0])
    visitor.get_by_role("button", name="Join with Loom").click()
    visitor.get_by_role("heading", name="Today").wait_for()
    visitor.get_by_role("button", name="Bram Okafor").click()
    visitor.get_by_role("menuitem", name="Sign out").click()
    visitor.get_by_role("button", name="Sign in with Loom").click()
    visitor.get_by_role("heading", name="Today").wait_for()
