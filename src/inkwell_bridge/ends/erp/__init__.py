"""The ERP dialect: JSON-RPC 2.0 with a session; the books compute tax themselves, by line."""

from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.erp.books import CAPABILITIES, ErpBooks
from inkwell_bridge.ends.forms import form, secret, text

END = EndKind(
    name="erp",
    title="ERP (JSON-RPC with a session)",
    side="books",
    credentials_schema=form(user=text("User"), password=secret("Password")),
    capabilities=CAPABILITIES,
    open=ErpBooks,
)
