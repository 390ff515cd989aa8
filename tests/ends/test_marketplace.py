"""The marketplace: minor units, taxes it keeps, tokens that end, and a pace that all callers share."""

from __future__ import annotations

import hashlib
import hmac
import json
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from decimal import Decimal
from functools import partial
from typing import Any

import httpx
import pytest

from inkwell_bridge.core.commerce import Order, SourceKind, Treatment
from inkwell_bridge.demo import lanternfair
from inkwell_bridge.ends.consent import ProofKey
from inkwell_bridge.ends.contract import SalesEnd, kinds
from inkwell_bridge.ends.errors import Busy, Refused
from inkwell_bridge.ends.marketplace.mapping import Minor, percent
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.pace import LONGEST_WAIT_SECONDS, OwnPace, Rate
from inkwell_bridge.ends.shapes import SignedCall
from inkwell_bridge.ends.tokens import OwnTokens, Token
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.places import LOOPBACK
from inkwell_bridge.standins.marketplace.calls import signed
from tests.support.ends import BENCHES
from tests.support.world import HTTP, World

BENCH = BENCHES["marketplace"]
BACK = "http://127.0.0.1:50123/signed-in"
ORDERS = SourceKind.ORDERS


def opening(world: World, tokens: OwnTokens | None = None, **credentials: str) -> Opening:
    """The marketplace of a world; with a store of tokens to look into."""
    return Opening(
        address=BENCH.address(world),
        credentials={**BENCH.credentials, **credentials},
        guard=LOOPBACK,
        tokens=tokens or OwnTokens(),
    )


def market(world: World, tokens: OwnTokens | None = None, **credentials: str) -> SalesEnd:
    """It, open."""
    return kinds()["marketplace"].open(opening(world, tokens, **credentials))  # type: ignore[no-any-return]


def agreed_to(page: str, **form: str) -> httpx.URL:
    """Where the browser is sent when somebody answers the consent page."""
    answered = HTTP.post(page, data={"answer": "allow", **form})
    assert answered.status_code == 303
    return httpx.URL(answered.headers["Location"])


def signed_in(world: World, scopes: tuple[str, ...] = ("sales", "handbacks", "sales.write")) -> Token:
    """The token of somebody who went through the consent page."""
    consent = kinds()["marketplace"].consent
    assert consent is not None
    page, key = consent(opening(world)), ProofKey.fresh()
    there = agreed_to(page.page(state="s", challenge=key.challenge, return_to=BACK), **dict.fromkeys(scopes, "on"))
    assert there.params["state"] == "s"
    return page.redeem(code=there.params["code"], verifier=key.verifier, return_to=BACK)


def order(world: World, number: str) -> Order:
    """One sale, as we read it."""
    found = market(world).document(ORDERS, number)
    assert isinstance(found.document, Order), found.problem
    return found.document


@pytest.mark.parametrize(("units", "currency", "amount"), [
    (1850, "EUR", "18.50"), (5, "USD", "0.05"), (-295, "EUR", "-2.95"), (0, "EUR", "0.00"), (3600, "JPY", "3600"),
    (7250, "KWD", "7.250"),
])  # fmt: skip
def test_minor_units_follow_the_currency(units: int, currency: str, amount: str) -> None:
    """Two digits, none, or three (ISO 4217)."""
    assert Minor(currency)(units) == amount


@pytest.mark.parametrize("units", [18.5, "1850", True, None])
def test_what_is_no_whole_number_is_no_amount(units: Any) -> None:
    """Never guessed at."""
    with pytest.raises(ValueError, match="whole number"):
        Minor("EUR")(units)


@pytest.mark.parametrize(("millionths", "rate"), [(230_000, "23"), (11_850, "1.185"), (200_000, "20"), (0, "0")])
def test_rates_come_in_millionths(millionths: int, rate: str) -> None:
    """1.185 % among them."""
    assert percent(millionths) == rate


def test_a_sale_in_eur(world: World) -> None:
    """To Leipzig, at 19 % under the one-stop scheme: the tax is the seller's."""
    (sale,) = [one for one in lanternfair.first_sales()["sales"] if one["sale"] == "LF-26-4102"]
    found = order(world, "LF-26-4102")
    assert (found.currency, found.prices_include_tax, found.country) == ("EUR", True, "DE")
    assert found.treatment is Treatment.ONE_STOP
    # 64.00 and 5.90 of postage, both with 19 % inside: 10.22 and 0.94.
    assert [line.amount for line in found.lines] == [Decimal("64.00")]
    assert [tax.amount for charge in found.charges for tax in charge.taxes] == [Decimal("10.22"), Decimal("0.94")]
    assert (found.tax_total, found.total) == (Decimal("11.16"), Decimal("69.90"))
    assert not any(tax.kept for charge in found.charges for tax in charge.taxes)
    assert [money.tender for money in found.payments] == ["marketplace"]
    assert found.buyer is not None
    assert found.buyer.email == sale["for"]["relay"]


def test_a_sale_in_usd_whose_taxes_the_marketplace_keeps(world: World) -> None:
    """State, county and city on top, none of them the seller's."""
    sales = lanternfair.first_sales()["sales"]
    number = next(one["sale"] for one in sales if one["for"]["to"]["place"] == "Boulder")
    found = order(world, number)
    assert (found.currency, found.prices_include_tax, found.treatment) == ("USD", False, Treatment.MARKETPLACE)
    taxes = found.lines[0].taxes
    assert [(tax.jurisdiction, tax.rate_percent) for tax in taxes] == [
        ("Colorado", Decimal("2.9")), ("Boulder County", Decimal("1.185")), ("Boulder", Decimal("3.86")),
    ]  # fmt: skip
    assert all(tax.kept for charge in found.charges for tax in charge.taxes)
    charged = sum((charge.amount for charge in found.charges), Decimal(0))
    assert found.total == charged + found.tax_total


def test_the_items_of_a_long_sale_come_in_pages(world: World) -> None:
    """All thirty, in their order, though a page of items has twenty-five."""
    long = next(sale for sale in lanternfair.market()["sales"] if len(sale["items"]) == 30)
    BENCH.put(world, sales=[long])
    assert [line.id for line in order(world, long["sale"]).lines] == [str(row) for row in range(1, 31)]


def test_what_it_misstates_is_told_and_keeps_its_number(world: World) -> None:
    """An amount with a point in it; the other sales are read all the same."""
    sale = lanternfair.first_sales()["sales"][0]
    BENCH.put(world, sales=[{**sale, "sums": {"tax": 1.5, "due": 2}}])
    found = {one.number: one for one in market(world).documents(ORDERS, changed_since=None).documents}
    assert found[sale["sale"]].document is None
    assert "whole number of minor units" in found[sale["sale"]].problem
    assert all(one.document for number, one in found.items() if number != sale["sale"])


def test_a_token_is_renewed_before_it_ends(world: World) -> None:
    """The next call has a fresh one; nobody met a refusal."""
    BENCH.change_company(world, token_seconds=2)
    tokens = OwnTokens()
    end = market(world, tokens)
    end.check()
    first = tokens.current()
    assert first is not None
    # A fifth of its life before its end.
    assert 0.3 < first.ends_at - first.renew_at < 0.5
    time.sleep(max(0.0, first.renew_at - time.time()) + 0.05)
    end.check()
    assert tokens.current() != first


def test_a_token_that_was_taken_back_is_replaced_once(world: World) -> None:
    """Refused, nothing was done; a new one, and the call goes out again."""
    tokens = OwnTokens()
    end = market(world, tokens)
    end.check()
    first = tokens.current()
    BENCH.put(world, sign_out=True)
    assert end.check().company
    assert tokens.current() != first


def test_somebody_signs_in_through_the_consent_page(world: World) -> None:
    """With what they left ticked; the token is renewed from then on."""
    token = signed_in(world, ("sales",))
    end = market(world, OwnTokens(token), grant="consent page")
    missing = {right.name for right in end.check().missing}
    assert missing == {"read money handed back", "tell of parcels"}
    tokens = OwnTokens(Token(access=token.access, ends_at=0, renew_at=0, refresh=token.refresh))
    assert market(world, tokens, grant="consent page").check().company
    renewed = tokens.current()
    assert renewed is not None
    assert renewed.refresh not in {"", token.refresh}


def test_nobody_signed_in_yet_says_what_to_do(world: World) -> None:
    """Not a wrong key: a person has to go through the page."""
    with pytest.raises(Refused, match="Sign in through its consent page") as caught:
        market(world, grant="consent page").check()
    assert caught.value.why == "sign-in"


def test_a_sign_in_that_is_over_says_so(world: World) -> None:
    """The marketplace took everything back; renewing does not help."""
    token = signed_in(world)
    BENCH.put(world, sign_out=True)
    with pytest.raises(Refused, match=r"is over .*invalid_grant") as caught:
        market(world, OwnTokens(token), grant="consent page").check()
    assert caught.value.why == "sign-in"


def test_a_lost_answer_to_a_renewal_does_no_harm(world: World) -> None:
    """The old token for renewal serves once more, for nothing of the new was used."""
    token = signed_in(world)
    due = Token(access=token.access, ends_at=0, renew_at=0, refresh=token.refresh)
    tokens = OwnTokens(due)
    end = market(world, tokens, grant="consent page")
    BENCH.misbehave(world, {"call": "token", "kind": "cut"})
    with pytest.raises(Exception, match="did not answer in full"):
        end.check()
    assert tokens.current() == due
    assert end.check().company


@pytest.mark.parametrize("wrong", ["code", "verifier", "return_to"])
def test_a_code_opens_nothing_without_its_key(world: World, wrong: str) -> None:
    """Stolen, guessed, or sent back elsewhere (RFC 7636, section 1)."""
    consent = kinds()["marketplace"].consent
    assert consent is not None
    page, key = consent(opening(world)), ProofKey.fresh()
    there = agreed_to(page.page(state="s", challenge=key.challenge, return_to=BACK), sales="on")
    given = {"code": there.params["code"], "verifier": key.verifier, "return_to": BACK}
    with pytest.raises(Refused):
        page.redeem(**{**given, wrong: "http://127.0.0.1/other" if wrong == "return_to" else "x" * 43})


def test_the_proof_key_is_that_of_the_standard() -> None:
    """The example of RFC 7636, appendix B."""
    key = ProofKey(verifier="dBjftJeZ4CVP-mB92K27uhbUJU1p1r_wW1gFWFOEjXk")
    assert key.challenge == "E9Melhoa2OwvFrEMTJguCHaoeK1t8URWbuGJSstw-cM"


def test_threads_renew_a_token_one_at_a_time() -> None:
    """Whoever waited takes what the first one got."""
    asked: list[int] = []

    def fetch(_: Token | None) -> Token:
        asked.append(1)
        time.sleep(0.1)
        return Token.lasting(60, access=f"a{len(asked)}")

    spent = Token.lasting(60, access="spent")
    tokens = OwnTokens(spent)
    with ThreadPoolExecutor(8) as pool:
        found = {token.access for token in pool.map(lambda _: tokens.renewed(spent, fetch), range(8))}
    assert (len(asked), found) == (1, {"a1"})


def test_the_pace_is_kept_by_threads_together(world: World) -> None:
    """Three callers with one pace: nobody is turned away. Without a pace of theirs, somebody is."""
    assert turned_away(world, BENCH.pace) == 0
    assert turned_away(world, lambda: BENCH_UNPACED) > 0


class _Unpaced:
    def take(self) -> None: ...
    def pause(self, seconds: float) -> None: ...


BENCH_UNPACED = _Unpaced()


def turned_away(world: World, pace: Callable[[], Any]) -> int:
    """How many of 90 calls out of three threads came too fast for the marketplace."""
    shared, busy, lock = pace(), [], threading.Lock()
    tokens = OwnTokens()
    ends = [
        kinds()["marketplace"].open(
            Opening(address=BENCH.address(world), credentials=BENCH.credentials, guard=LOOPBACK, pace=shared,
                    tokens=tokens)
        )
        for _ in range(3)
    ]  # fmt: skip

    def calls(end: SalesEnd) -> None:
        for _ in range(30):
            try:
                end.check()
            except Busy as error:
                with lock:
                    busy.append(error)

    with ThreadPoolExecutor(3) as pool:
        list(pool.map(calls, ends))
    return len(busy)


def test_a_pause_that_is_asked_for_is_kept_by_all() -> None:
    """Who would wait too long is told how long, and does not call."""
    pace = OwnPace(Rate(calls=100, burst=10))
    pace.take()
    pace.pause(LONGEST_WAIT_SECONDS + 30)
    with pytest.raises(Busy) as caught:
        pace.take()
    assert caught.value.retry_after_seconds == pytest.approx(LONGEST_WAIT_SECONDS + 30, abs=1)


def test_what_was_not_used_may_be_used_at_once() -> None:
    """Up to the burst, and then one by one: the waits of eight calls at 20 a second with a burst of five."""
    pace, rate = OwnPace(Rate(calls=20, burst=5)), 1 / 20
    began = time.monotonic()
    for _ in range(8):
        pace.take()
    assert time.monotonic() - began >= 3 * rate * 0.9


def test_the_consent_page_returns_nobody_elsewhere(world: World) -> None:
    """An address that was not registered gets nobody, and no code."""
    consent = kinds()["marketplace"].consent
    assert consent is not None
    page = consent(opening(world)).page(state="s", challenge="c", return_to="https://elsewhere.example/signed-in")
    assert HTTP.post(page, data={"answer": "allow"}).status_code == 400
    assert demo_client.facts()["lanternfair"]["redirects"] == ["http://127.0.0.1/signed-in"]


# -- calls under the marketplace's own signature -----------------------------------------------------------------------

SECRET = "whsec_bGFudGVybmZhaXItY2FsbHMtdXM="


def call(secret: str = SECRET, *, ago: int = 0, **fields: Any) -> SignedCall:
    """A call that a sale moved, sent so many seconds ago; with these fields of it."""
    headers, body = signed(secret, "sale", {"sale": "LF-26-4101", "moved": "2026-10-09T10:00:00+00:00"})
    body = json.dumps({**json.loads(body), **fields})
    moment = str(int(headers["fair-moment"]) - ago)
    signature = hmac.new(secret.encode(), f"{moment}.{body}".encode(), hashlib.sha256).hexdigest()
    headers = {**headers, "Fair-Moment": moment, "Fair-Signature": signature}
    return SignedCall(headers={name: value for name, value in headers.items() if name[0] != "f"}, body=body.encode())


def test_a_call_says_which_sale_moved_and_nothing_of_it_is_believed(world: World) -> None:
    """Signed by either of two secrets; its number is all that is taken of it."""
    event = market(world).parse_webhook(call(), ["whsec_b3RoZXI=", SECRET])
    assert (event.kind, event.number) == (ORDERS, "LF-26-4101")


@pytest.mark.parametrize(("sent", "why"), [
    (partial(call, "whsec_c29tZWJvZHkgZWxzZQ=="), "credentials"),
    (partial(call, ago=301), "credentials"),
    (partial(call, ago=-86_400), "credentials"),
    (partial(call, moved="weather"), "document"),
    (partial(call, at="yesterday"), "document"),
    (partial(SignedCall, headers={}, body=b"{}"), "credentials"),
    (partial(SignedCall, headers={"fair-moment": "²", "fair-signature": "é"}, body=b"\xff"), "credentials"),
])  # fmt: skip
def test_calls_of_somebody_else_old_ones_and_nonsense_are_refused(
    world: World, sent: Callable[[], SignedCall], why: str
) -> None:
    """Each with what is wrong; signed when the test runs, for a call counts for five minutes."""
    with pytest.raises(Refused) as refused:
        market(world).parse_webhook(sent(), [SECRET])
    assert refused.value.why == why
    with pytest.raises(Refused):
        market(world).parse_webhook(call(), [])
