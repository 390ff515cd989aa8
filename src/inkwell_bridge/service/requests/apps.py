"""The room of requests for payment."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django; upkeep forgets what links were opened from where."""

    name = "inkwell_bridge.service.requests"
    label = "requests"

    def ready(self) -> None:
        """Let upkeep forget who opened links an hour ago."""
        from inkwell_bridge.service.carriage.upkeep import also  # noqa: PLC0415 models are loaded only now
        from inkwell_bridge.service.requests.pace import forget  # noqa: PLC0415

        also(forget, every_rounds=300)
