"""The contact list dialect: a small address book of customers and their orders, JSON over HTTP."""

from inkwell_bridge.ends.contact_list.people import CAPABILITIES, ContactList
from inkwell_bridge.ends.contract import EndKind

END = EndKind(
    name="contact-list",
    title="Contact list (JSON, bearer token)",
    side="books",
    credentials_schema={
        "type": "object",
        "additionalProperties": False,
        "required": ["token"],
        "properties": {
            "token": {"type": "string", "title": "Token", "minLength": 1, "maxLength": 500, "writeOnly": True},
        },
    },
    capabilities=CAPABILITIES,
    open=ContactList,
)
