"""The marketplace: sales and their items on separate calls, OAuth 2.0, and a hard pace."""

from inkwell_bridge.standins.marketplace.application import application

__all__ = ["application"]
