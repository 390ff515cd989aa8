"""The ledger dialect: UBL 2.1 for invoices and credit notes, JSON for the rest; tax is taken as given."""

from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.forms import form, secret
from inkwell_bridge.ends.ledger.books import CAPABILITIES, LedgerBooks

END = EndKind(
    name="ledger",
    title="Ledger (UBL invoices, JSON, bearer token)",
    side="books",
    credentials_schema=form(token=secret("Token")),
    capabilities=CAPABILITIES,
    open=LedgerBooks,
)
