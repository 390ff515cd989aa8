"""The tieout room."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django, and lets upkeep watch the days that have tied."""

    name = "inkwell_bridge.service.tieout"
    label = "tieout"

    def ready(self) -> None:
        """Look every minute; forget what is old once in a while."""
        from inkwell_bridge.service.carriage.upkeep import also  # noqa: PLC0415 models are loaded only now
        from inkwell_bridge.service.tieout.watching import forget, watch  # noqa: PLC0415

        also(watch, every_rounds=30)
        also(forget, every_rounds=1800)
