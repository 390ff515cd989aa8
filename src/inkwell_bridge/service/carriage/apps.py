"""The carriage room."""

from django.apps import AppConfig


class Config(AppConfig):
    """Registers the room with Django, its kinds of document with what offers lanes for them, and what waits for an end
    or a rate with whoever has it again."""

    name = "inkwell_bridge.service.carriage"
    label = "carriage"

    def ready(self) -> None:
        """Offer a lane for each kind that has one."""
        from inkwell_bridge.service.bridges.lanes import offer_lane  # noqa: PLC0415 models are loaded only now
        from inkwell_bridge.service.carriage.daily_rates import retry_without_rate  # noqa: PLC0415
        from inkwell_bridge.service.carriage.kinds import lane_kinds  # noqa: PLC0415
        from inkwell_bridge.service.carriage.runs import hurry_waiting  # noqa: PLC0415
        from inkwell_bridge.service.connections.actions import is_well_again  # noqa: PLC0415
        from inkwell_bridge.service.exchange_rates.table import rates_came  # noqa: PLC0415

        for kind in lane_kinds():
            offer_lane(kind.name, kind.ends_cannot)
        is_well_again.connect(lambda connection, **_: hurry_waiting(connection), weak=False, dispatch_uid="hurry")
        rates_came.connect(lambda company, **_: retry_without_rate(company), weak=False, dispatch_uid="rates came")
