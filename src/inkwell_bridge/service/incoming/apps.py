"""The room of calls from outside."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django, and what it has to look after with upkeep."""

    name = "inkwell_bridge.service.incoming"
    label = "incoming"

    def ready(self) -> None:
        """Have calls that lost their job found again."""
        from inkwell_bridge.service.carriage.upkeep import also  # noqa: PLC0415 models are loaded only now
        from inkwell_bridge.service.incoming.named_documents import remove_old, wake  # noqa: PLC0415

        also(wake, every_rounds=5)
        also(remove_old, every_rounds=1800)
