"""The scenario's web shop in Vendure: taxes, catalogue, carriage, coupons, a user for us, and a few dozen orders."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import httpx

from inkwell_bridge.demo.facts import facts
from inkwell_bridge.ends.vendure.graphql import GraphQL

RIGHTS = ("ReadOrder", "UpdateOrder", "ReadCustomer", "ReadCustomerGroup", "ReadCatalog", "UpdateCatalog",
          "ReadStockLocation", "ReadPaymentMethod", "ReadShippingMethod", "ReadTaxRate", "ReadTaxCategory",
          "ReadPromotion", "ReadChannel", "ReadSettings")  # fmt: skip
CARD, LATER = "card", "pay-later"
HEATHER, SOCK, MOSS, BOOK, KIT = "YRN-MER4-HEA", "YRN-SOCK-FEN", "YRN-LACE-MOS", "PAT-BOOK-ISL", "KIT-CHILD-HAT"
Json = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Wish:
    """An order to be placed, and what is then done with it at the storefront."""

    items: Sequence[tuple[str, int]]
    person: int = 0
    abroad: bool = False
    coupon: str = ""
    method: str = CARD
    then: str = ""


WISHES = (
    *(Wish(items=[(HEATHER, 1 + place % 3)], person=place % 12) for place in range(6)),
    *(Wish(items=[(SOCK, count)], person=count) for count in (1, 3, 7)),
    Wish(items=[(SOCK, 1), (MOSS, 2), ("DYE-POW-MAD", 3)], person=4),
    *(Wish(items=[(HEATHER, 1), ("YRN-MER4-SLA", 1), (SOCK, 1)], coupon="HARVEST10", person=place)
      for place in (5, 6)),
    Wish(items=[(SOCK, 7), ("DYE-POW-MAD", 3)], coupon="HARVEST5", person=7),
    Wish(items=[(BOOK, 1), (KIT, 2)], person=8),
    Wish(items=[(BOOK, 1), (MOSS, 2)], person=9),
    *(Wish(items=[(HEATHER, 3)], abroad=True, person=place) for place in (0, 1)),
    *(Wish(items=[(MOSS, 1)], person=place, method=LATER) for place in (10, 11)),
    Wish(items=[(MOSS, 1)], person=1, method=LATER, then="settle"),
    Wish(items=[(HEATHER, 2), (SOCK, 1)], person=2, then="refund a line"),
    Wish(items=[(HEATHER, 2)], person=3, then="refund an amount"),
    Wish(items=[(HEATHER, 1)], person=4, then="refund all"),
    *(Wish(items=[(SOCK, 2)], person=place, then="cancel") for place in (5, 6)),
    Wish(items=[(HEATHER, 3), (SOCK, 1)], person=7, then="cancel a part"),
    Wish(items=[(HEATHER, 1), (SOCK, 2)], person=8, then="send a part"),
    *(Wish(items=[(HEATHER, 1), (BOOK, 1)], person=place, then="send all") for place in (9, 10)),
    Wish(items=[("CON-WOOL-1KG", 12)], person=0),
    *(Wish(items=[("BWL-YARN-ASH", 1)], person=place) for place in (2, 3)),
)  # fmt: skip


def fill(admin: GraphQL, shop: str, *, user: str, password: str) -> None:
    """Everything; ``shop`` is the address of the interface that buyers use."""
    zones = _zones(admin)
    _taxes(admin, zones)
    _channel(admin, zones["UK"])
    places = _places(admin)
    _ways(admin)
    variants = _catalogue(admin, places)
    _coupons(admin)
    _user(admin, user=user, password=password)
    for wish in WISHES:
        placed = place(shop, wish, variants)
        _AFTERWARDS[wish.then](admin, placed)


def _id(admin: GraphQL, mutation: str, **variables: Any) -> str:
    return str(admin.change(mutation, **variables)["id"])


def _zones(admin: GraphQL) -> dict[str, str]:
    country = "mutation Country($input: CreateCountryInput!) { createCountry(input: $input) { id } }"
    zone = "mutation Zone($input: CreateZoneInput!) { createZone(input: $input) { id } }"
    made = {}
    for code in ("GB", "IE", "US", "JP", "DE"):
        words = {"code": code, "enabled": True, "translations": [{"languageCode": "en", "name": code}]}
        made[code] = _id(admin, country, input=words)
    world = [number for code, number in made.items() if code != "GB"]
    return {"UK": _id(admin, zone, input={"name": "UK", "memberIds": [made["GB"]]}),
            "World": _id(admin, zone, input={"name": "World", "memberIds": world})}  # fmt: skip


def _taxes(admin: GraphQL, zones: dict[str, str]) -> None:
    category = "mutation Category($input: CreateTaxCategoryInput!) { createTaxCategory(input: $input) { id } }"
    rate = "mutation Rate($input: CreateTaxRateInput!) { createTaxRate(input: $input) { id } }"
    for name, percent in (("standard", 20), ("reduced", 5), ("zero", 0)):
        number = _id(admin, category, input={"name": name, "isDefault": name == "standard"})
        for zone, title, value in (("UK", f"VAT {name}", percent), ("World", "Export of goods", 0)):
            words = {"name": title, "enabled": True, "value": value, "categoryId": number, "zoneId": zones[zone]}
            admin.change(rate, input=words)


def _channel(admin: GraphQL, zone: str) -> None:
    number = admin.read("query Channel { activeChannel { id seller { id } } }")["activeChannel"]
    admin.change(
        "mutation Seller($input: UpdateSellerInput!) { updateSeller(input: $input) { id } }",
        input={"id": number["seller"]["id"], "name": facts()["web_shop"]["company"]},
    )
    admin.change(
        """mutation SetChannel($input: UpdateChannelInput!) { updateChannel(input: $input) {
          ... on Channel { id } ... on ErrorResult { errorCode message } } }""",
        input={"id": number["id"], "defaultCurrencyCode": "GBP", "availableCurrencyCodes": ["GBP"],
               "pricesIncludeTax": True, "defaultTaxZoneId": zone, "defaultShippingZoneId": zone},
    )  # fmt: skip


def _places(admin: GraphQL) -> dict[str, str]:
    first = admin.read("query Places { stockLocations { items { id } } }")["stockLocations"]["items"][0]["id"]
    rename = "mutation Rename($input: UpdateStockLocationInput!) { updateStockLocation(input: $input) { id } }"
    admin.change(rename, input={"id": first, "name": "Dyehouse"})
    make = "mutation Place($input: CreateStockLocationInput!) { createStockLocation(input: $input) { id } }"
    return {"Dyehouse": first, "Mill": _id(admin, make, input={"name": "Mill"})}


def _operation(code: str, **arguments: Any) -> Json:
    return {"code": code, "arguments": [{"name": name, "value": str(value)} for name, value in arguments.items()]}


def _ways(admin: GraphQL) -> None:
    """How goods are sent, and how they are paid for."""
    carriage = "mutation Carriage($input: CreateShippingMethodInput!) { createShippingMethod(input: $input) { id } }"
    for place, tax in ((0, 20), (2, 0)):
        fact = facts()["carriage"][place]
        admin.change(carriage, input={
            "code": fact["title"].lower().replace(" ", "-"), "fulfillmentHandler": "manual-fulfillment",
            "checker": _operation("default-shipping-eligibility-checker", orderMinimum=0),
            "calculator": _operation("default-shipping-calculator", rate=fact["pence"], includesTax="include",
                                     taxRate=tax),
            "translations": [{"languageCode": "en", "name": fact["title"], "description": ""}],
        })  # fmt: skip
    paying = "mutation Paying($input: CreatePaymentMethodInput!) { createPaymentMethod(input: $input) { id } }"
    for code, at_once in ((CARD, "true"), (LATER, "false")):
        admin.change(paying, input={
            "code": code, "enabled": True, "handler": _operation("dummy-payment-handler", automaticSettle=at_once),
            "translations": [{"languageCode": "en", "name": code, "description": ""}],
        })  # fmt: skip


def _catalogue(admin: GraphQL, places: dict[str, str]) -> dict[str, str]:
    categories = admin.read("query Categories { taxCategories { items { id name } } }")["taxCategories"]["items"]
    of_class = {one["name"]: one["id"] for one in categories}
    product = "mutation Product($input: CreateProductInput!) { createProduct(input: $input) { id } }"
    variant = """mutation Variants($input: [CreateProductVariantInput!]!) {
      createProductVariants(input: $input) { id sku } }"""
    made = {}
    for article in facts()["catalogue"]:
        words = {"languageCode": "en", "name": article["title"], "slug": article["sku"].lower(), "description": ""}
        number = _id(admin, product, input={"enabled": True, "translations": [words]})
        levels = [{"stockLocationId": place, "stockOnHand": 500} for place in places.values()]
        (one,) = admin.change(variant, input=[{
            "productId": number, "sku": article["sku"], "price": article["pence"],
            "taxCategoryId": of_class[article["class"]], "stockLevels": levels,
            "translations": [{"languageCode": "en", "name": article["title"]}],
        }])  # fmt: skip
        made[one["sku"]] = one["id"]
    return made


def _coupons(admin: GraphQL) -> None:
    make = """mutation Coupon($input: CreatePromotionInput!) { createPromotion(input: $input) {
      ... on Promotion { id } ... on ErrorResult { errorCode message } } }"""
    actions = {"HARVEST10": _operation("order_fixed_discount", discount=1000),
               "HARVEST5": _operation("order_percentage_discount", discount=5)}  # fmt: skip
    for code, action in actions.items():
        words = [{"languageCode": "en", "name": code, "description": ""}]
        admin.change(make, input={"enabled": True, "couponCode": code, "conditions": [], "actions": [action],
                                  "translations": words})  # fmt: skip


def _user(admin: GraphQL, *, user: str, password: str) -> None:
    role = _id(
        admin,
        "mutation Role($input: CreateRoleInput!) { createRole(input: $input) { id } }",
        input={"code": "inkwell-bridge", "description": "Inkwell Bridge", "permissions": list(RIGHTS)},
    )
    admin.change(
        "mutation Person($input: CreateAdministratorInput!) { createAdministrator(input: $input) { id } }",
        input={"firstName": "Inkwell", "lastName": "Bridge", "emailAddress": user, "password": password,
               "roleIds": [role]},
    )  # fmt: skip


class _Buyer:
    """One buyer at the storefront, with a basket of their own."""

    def __init__(self, shop: str) -> None:
        self._shop = shop
        self._headers: dict[str, str] = {}
        self._http = httpx.Client(timeout=60, trust_env=False, verify=False)  # noqa: S501 plain HTTP on loopback

    def __call__(self, query: str, **variables: Any) -> Any:
        answer = self._http.post(self._shop, json={"query": query, "variables": variables}, headers=self._headers)
        token = answer.headers.get("vendure-auth-token")
        if token:
            self._headers = {"Authorization": f"Bearer {token}"}
        said = answer.json()
        if said.get("errors"):
            raise RuntimeError(f"the storefront refused: {said['errors'][0]['message']}")
        (result,) = said["data"].values()
        if isinstance(result, dict) and result.get("errorCode"):
            raise RuntimeError(f"the storefront refused: {result['message']}")
        return result


_ERROR = "... on ErrorResult { errorCode message }"


def place(shop: str, wish: Wish, variants: dict[str, str]) -> Json:
    """Place an order as a guest does; answers its id, its lines and its payment."""
    buy = _Buyer(shop)
    for sku, count in wish.items:
        buy(f"mutation($v: ID!, $n: Int!) {{ addItemToOrder(productVariantId: $v, quantity: $n) {{ {_ERROR} }} }}",
            v=variants[sku], n=count)  # fmt: skip
    person = facts()["overseas" if wish.abroad else "shoppers"][wish.person]
    buy(f"mutation($c: CreateCustomerInput!) {{ setCustomerForOrder(input: $c) {{ {_ERROR} }} }}",
        c={"firstName": person["first"], "lastName": person["last"], "emailAddress": person["email"]})  # fmt: skip
    address = {"fullName": f"{person['first']} {person['last']}", "streetLine1": "4 Spindle Row",
               "city": person["town"], "postalCode": person["postcode"], "countryCode": person["country"]}  # fmt: skip
    for which in ("Shipping", "Billing"):
        buy(f"mutation($a: CreateAddressInput!) {{ setOrder{which}Address(input: $a) {{ {_ERROR} }} }}", a=address)
    ways = buy("{ eligibleShippingMethods { id code } }")
    wanted = "overseas" if wish.abroad else "standard"
    chosen = next(way["id"] for way in ways if way["code"].startswith(wanted))
    buy(f"mutation($m: [ID!]!) {{ setOrderShippingMethod(shippingMethodId: $m) {{ {_ERROR} }} }}", m=[chosen])
    if wish.coupon:
        buy(f"mutation($c: String!) {{ applyCouponCode(couponCode: $c) {{ {_ERROR} }} }}", c=wish.coupon)
    buy('mutation { transitionOrderToState(state: "ArrangingPayment") { ... on OrderStateTransitionError '
        "{ errorCode message } } }")  # fmt: skip
    placed = buy(
        f"""mutation($p: PaymentInput!) {{ addPaymentToOrder(input: $p) {{
          ... on Order {{ id code lines {{ id quantity }} payments {{ id amount }} }} {_ERROR} }} }}""",
        p={"method": wish.method, "metadata": {"reference": secrets.token_hex(4)}},
    )
    return dict(placed)


def _settle(admin: GraphQL, order: Json) -> None:
    payment = order["payments"][0]["id"]
    admin.change(f"mutation Settle($id: ID!) {{ settlePayment(id: $id) {{ ... on Payment {{ id }} {_ERROR} }} }}",
                 id=payment)  # fmt: skip


def _refund(admin: GraphQL, order: Json, **words: Any) -> None:
    # A refund by amount alone must still send empty lines, carriage and adjustment.
    given = {"lines": [], "shipping": 0, "adjustment": 0, "paymentId": order["payments"][0]["id"], **words}
    made = admin.change(
        f"mutation Refund($i: RefundOrderInput!) {{ refundOrder(input: $i) {{ ... on Refund {{ id }} {_ERROR} }} }}",
        i=given,
    )
    admin.change(
        f"mutation Paid($i: SettleRefundInput!) {{ settleRefund(input: $i) {{ ... on Refund {{ id }} {_ERROR} }} }}",
        i={"id": made["id"], "transactionId": f"wg_r_{order['code']}"},
    )


def _refund_a_line(admin: GraphQL, order: Json) -> None:
    # The first that was put into the basket: lines are handed out in any order.
    line = min(order["lines"], key=lambda one: (len(one["id"]), one["id"]))
    _refund(admin, order, lines=[{"orderLineId": line["id"], "quantity": 1}], reason="one skein came back")


def _refund_all(admin: GraphQL, order: Json) -> None:
    lines = [{"orderLineId": line["id"], "quantity": line["quantity"]} for line in order["lines"]]
    _refund(admin, order, lines=lines, shipping=facts()["carriage"][0]["pence"], reason="all came back")


def _cancel(admin: GraphQL, order: Json, lines: Sequence[Json] | None = None) -> None:
    whole = {} if lines is not None else {"cancelShipping": True}
    parts = {} if lines is None else {"lines": lines}
    admin.change(
        f"mutation Cancel($i: CancelOrderInput!) {{ cancelOrder(input: $i) {{ ... on Order {{ id }} {_ERROR} }} }}",
        i={"orderId": order["id"], "reason": "changed their mind", **whole, **parts},
    )


def _send(admin: GraphQL, lines: Sequence[Json], tracking: str) -> None:
    made = admin.change(
        f"""mutation Send($i: FulfillOrderInput!) {{ addFulfillmentToOrder(input: $i) {{
          ... on Fulfillment {{ id }} {_ERROR} }} }}""",
        i={"lines": list(lines),
           "handler": _operation("manual-fulfillment", method="Otter Parcels", trackingCode=tracking)},
    )  # fmt: skip
    admin.change(
        f"""mutation Sent($id: ID!) {{ transitionFulfillmentToState(id: $id, state: "Shipped") {{
          ... on Fulfillment {{ id }} {_ERROR} }} }}""",
        id=made["id"],
    )


def _lines(order: Json) -> list[Json]:
    return [{"orderLineId": line["id"], "quantity": line["quantity"]} for line in order["lines"]]


_AFTERWARDS: dict[str, Callable[[GraphQL, Json], None]] = {
    "": lambda admin, order: None,
    "settle": _settle,
    "refund a line": _refund_a_line,
    "refund an amount": lambda admin, order: _refund(admin, order, amount=300, reason="for the trouble"),
    "refund all": _refund_all,
    "cancel": _cancel,
    "cancel a part": lambda admin, order: _cancel(admin, order, _lines(order)[1:]),
    "send a part": lambda admin, order: _send(admin, _lines(order)[:1], f"OT-{order['code'][:6]}"),
    "send all": lambda admin, order: _send(admin, _lines(order), f"OT-{order['code'][:6]}"),
}
