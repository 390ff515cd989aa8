"""The room of the bank."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django; what was carried and is awaited is looked for on the bank's lines,
    folders are looked into for statements, and what old lines say of people is forgotten."""

    name = "inkwell_bridge.service.bank"
    label = "bank"

    def ready(self) -> None:
        """Listen for what is awaited, and let upkeep look into the folders and forget."""
        from inkwell_bridge.service.bank.folders import look  # noqa: PLC0415 models are loaded only now
        from inkwell_bridge.service.bank.forgetting import forget_words  # noqa: PLC0415
        from inkwell_bridge.service.bank.matching import look_for  # noqa: PLC0415
        from inkwell_bridge.service.carriage.awaited_money import money_awaited  # noqa: PLC0415
        from inkwell_bridge.service.carriage.upkeep import also  # noqa: PLC0415

        money_awaited.connect(lambda books, **_: look_for(books), weak=False, dispatch_uid="money at the bank")
        also(look, every_rounds=5)
        also(forget_words, every_rounds=1800)
