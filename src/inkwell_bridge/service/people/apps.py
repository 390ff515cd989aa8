"""The people room."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django."""

    name = "inkwell_bridge.service.people"
    label = "people"

    def ready(self) -> None:
        """Let the API description know our way of signing in."""
        from inkwell_bridge.service.api import schema  # noqa: F401, PLC0415
