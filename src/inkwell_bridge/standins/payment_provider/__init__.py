"""A simulated payment provider."""

from inkwell_bridge.standins.payment_provider.application import application

__all__ = ["application"]
