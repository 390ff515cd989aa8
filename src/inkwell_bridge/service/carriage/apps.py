"""The carriage room."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django."""

    name = "inkwell_bridge.service.carriage"
    label = "carriage"
