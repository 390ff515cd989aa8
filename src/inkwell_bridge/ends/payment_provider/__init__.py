"""The payment provider dialect: payouts and requests for payment, minor units, a bearer token, lists by cursor."""

from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.forms import form, secret
from inkwell_bridge.ends.payment_provider.provider import CAPABILITIES, PaymentProvider

END = EndKind(
    name="payment-provider",
    title="Payment provider (JSON, bearer token)",
    side="sales",
    credentials_schema=form(token=secret("Token")),
    capabilities=CAPABILITIES,
    open=PaymentProvider,
)
