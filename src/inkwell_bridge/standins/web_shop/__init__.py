"""A simulated web shop: JSON over HTTP, key and secret by HTTP Basic (RFC 7617), pages by Link (RFC 8288)."""

from inkwell_bridge.standins.web_shop.application import application

__all__ = ["application"]
