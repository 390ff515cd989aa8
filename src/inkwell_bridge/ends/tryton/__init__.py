"""The Tryton dialect: its public JSON-RPC interface, over which its own clients work too (series 7.0)."""

from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.forms import form, secret, text
from inkwell_bridge.ends.tryton.books import CAPABILITIES, TrytonBooks

END = EndKind(
    name="tryton",
    title="Tryton 7.0 (JSON-RPC)",
    side="books",
    credentials_schema=form(user=text("User"), password=secret("Password")),
    capabilities=CAPABILITIES,
    open=TrytonBooks,
)
