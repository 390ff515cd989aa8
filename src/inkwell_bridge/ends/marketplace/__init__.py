"""The marketplace dialect: OAuth 2.0, amounts in minor units, sales and their items on separate calls, a hard pace."""

from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.forms import choice, form, secret, text
from inkwell_bridge.ends.marketplace.market import CAPABILITIES, RATE, Marketplace, consent
from inkwell_bridge.ends.oauth import GRANTS

END = EndKind(
    name="marketplace",
    title="Marketplace (OAuth 2.0, minor units)",
    side="sales",
    credentials_schema=form(
        client_id=text("Application id"),
        client_secret=secret("Application secret"),
        grant=choice("How we sign in", GRANTS),
        optional=("grant",),
    ),
    capabilities=CAPABILITIES,
    open=Marketplace,
    rate=RATE,
    consent=consent,
)
