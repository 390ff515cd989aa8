"""The reference room: what both ends call things."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django."""

    name = "inkwell_bridge.service.reference"
    label = "reference"
