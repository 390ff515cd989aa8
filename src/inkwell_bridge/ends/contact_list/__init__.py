"""The contact list dialect: a small address book of customers and their orders, JSON over HTTP."""

from inkwell_bridge.ends.contact_list.people import CAPABILITIES, ContactList
from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.forms import form, secret

END = EndKind(
    name="contact-list",
    title="Contact list (JSON, bearer token)",
    side="books",
    credentials_schema=form(token=secret("Token")),
    capabilities=CAPABILITIES,
    open=ContactList,
)
