"""The room of exchange rates."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django."""

    name = "inkwell_bridge.service.exchange_rates"
    label = "exchange_rates"
