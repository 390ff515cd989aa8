"""The ERP dialect: JSON-RPC 2.0 with a session; the books compute tax themselves, by line."""

from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.erp.books import CAPABILITIES, ErpBooks

END = EndKind(
    name="erp",
    title="ERP (JSON-RPC with a session)",
    side="books",
    credentials_schema={
        "type": "object",
        "additionalProperties": False,
        "required": ["user", "password"],
        "properties": {
            "user": {"type": "string", "title": "User", "minLength": 1, "maxLength": 500},
            "password": {"type": "string", "title": "Password", "minLength": 1, "maxLength": 500, "writeOnly": True},
        },
    },
    capabilities=CAPABILITIES,
    open=ErpBooks,
)
