"""The web shop dialect: JSON over HTTP, key and secret, pages by Link headers, signed calls when things change."""

from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.forms import form, secret, text
from inkwell_bridge.ends.web_shop.shop import CAPABILITIES, WebShop

END = EndKind(
    name="web-shop",
    title="Web shop (JSON, key and secret)",
    side="sales",
    credentials_schema=form(
        key=text("Key"),
        secret=secret("Secret"),
        signing_secret=secret("Secret that the shop signs its calls with (starts with whsec_)"),
        optional=("signing_secret",),
    ),
    capabilities=CAPABILITIES,
    open=WebShop,
)
