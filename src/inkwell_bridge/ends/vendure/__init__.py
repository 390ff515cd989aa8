"""The Vendure dialect: its public GraphQL admin interface (series 3)."""

from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.forms import form, secret, text
from inkwell_bridge.ends.vendure.shop import CAPABILITIES, VendureShop

END = EndKind(
    name="vendure",
    title="Vendure 3 (GraphQL)",
    side="sales",
    credentials_schema=form(
        user=text("User"),
        password=secret("Password"),
        channel=secret("Token of the channel, where it is not the default one"),
        optional=("channel",),
    ),
    capabilities=CAPABILITIES,
    open=VendureShop,
)
