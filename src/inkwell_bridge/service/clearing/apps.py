"""The room of clearing accounts."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django."""

    name = "inkwell_bridge.service.clearing"
    label = "clearing"
