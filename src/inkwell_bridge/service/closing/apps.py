"""The room in which months are closed."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django, and hears of figures that change in a closed month."""

    name = "inkwell_bridge.service.closing"
    label = "closing"

    def ready(self) -> None:
        """Listen for what carriage writes."""
        from inkwell_bridge.service.carriage.figures import figures_changed  # noqa: PLC0415 models are loaded only now
        from inkwell_bridge.service.closing.later_changes import keep_later_changes  # noqa: PLC0415

        figures_changed.connect(keep_later_changes, dispatch_uid="changes in closed months")
