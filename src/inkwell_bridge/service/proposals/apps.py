"""The proposals room."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django."""

    name = "inkwell_bridge.service.proposals"
    label = "proposals"
