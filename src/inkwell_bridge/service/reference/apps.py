"""The reference room: the reference data of both ends."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django."""

    name = "inkwell_bridge.service.reference"
    label = "reference"
