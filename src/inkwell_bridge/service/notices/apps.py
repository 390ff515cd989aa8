"""The room of notices."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django, and lets upkeep look for trouble."""

    name = "inkwell_bridge.service.notices"
    label = "notices"

    def ready(self) -> None:
        """Look every few rounds; forget what is old once in a while."""
        from inkwell_bridge.service.carriage.upkeep import also  # noqa: PLC0415 models are loaded only now
        from inkwell_bridge.service.notices.composing import queue_due  # noqa: PLC0415
        from inkwell_bridge.service.notices.troubles import remove_old  # noqa: PLC0415

        also(queue_due, every_rounds=5)
        also(remove_old, every_rounds=1800)
