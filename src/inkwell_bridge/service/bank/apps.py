"""The room of the bank."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django; each payout that was carried is looked for on the bank's lines."""

    name = "inkwell_bridge.service.bank"
    label = "bank"

    def ready(self) -> None:
        """Listen for payouts."""
        from inkwell_bridge.service.bank.matching import look_for  # noqa: PLC0415 models are loaded only now
        from inkwell_bridge.service.carriage.kinds.payouts import payouts_carried  # noqa: PLC0415

        payouts_carried.connect(lambda books, **_: look_for(books), weak=False, dispatch_uid="payouts at the bank")
