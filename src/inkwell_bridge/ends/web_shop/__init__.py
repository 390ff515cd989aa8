"""The web shop dialect: JSON over HTTP, key and secret, pages by Link headers, signed calls when things change."""

from inkwell_bridge.ends.contract import EndKind
from inkwell_bridge.ends.web_shop.shop import CAPABILITIES, WebShop

END = EndKind(
    name="web-shop",
    title="Web shop (JSON, key and secret)",
    side="sales",
    credentials_schema={
        "type": "object",
        "additionalProperties": False,
        "required": ["key", "secret"],
        "properties": {
            "key": {"type": "string", "title": "Key", "minLength": 1, "maxLength": 500},
            "secret": {"type": "string", "title": "Secret", "minLength": 1, "maxLength": 500, "writeOnly": True},
            "signing_secret": {
                "type": "string",
                "title": "Secret that the shop signs its calls with (starts with whsec_)",
                "maxLength": 500,
                "writeOnly": True,
            },
        },
    },
    capabilities=CAPABILITIES,
    open=WebShop,
)
