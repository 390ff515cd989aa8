"""The room of completeness."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django, and lets upkeep ask for the checks of each day."""

    name = "inkwell_bridge.service.completeness"
    label = "completeness"

    def ready(self) -> None:
        """Look now and then whether a check is due."""
        from inkwell_bridge.service.carriage.upkeep import also  # noqa: PLC0415 models are loaded only now
        from inkwell_bridge.service.completeness.asking import ask_due  # noqa: PLC0415

        also(ask_due, every_rounds=60)
