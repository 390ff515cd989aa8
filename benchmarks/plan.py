"""Orders planned a second, beside only reading the same JSON: ``./inkwell bench plan [--times 100]``.

The floor is what no planner can be faster than: parsing and validating the JSON of each order into its canonical
shape. Both run over the demo's month in turns, so many times, in one process and in one go.
"""

from __future__ import annotations

import argparse
import resource
import time
from collections.abc import Callable
from statistics import median

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.planner import Outcome, PlanningContext, plan_order
from inkwell_bridge.core.rulebook import read
from inkwell_bridge.demo import month
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.ends.erp.books import CAPABILITIES
from inkwell_bridge.ends.web_shop.orders import order as in_our_words


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(prog="inkwell bench plan", description=__doc__)
    parser.add_argument("--times", type=int, default=100, help="how often the month is gone over")
    times = parser.parse_args().times
    context = setting()
    written = [Order.read(in_our_words(said)).written() for said in month.web_shop()["orders"]]
    carried = sum(plan_order(Order.read(text), context).outcome is Outcome.CARRY for text in written)
    print(f"{len(written)} orders of the month, {carried} of them carried, {times} times")
    before = _peak_mib()
    # In turns, and by the median: what else the machine does strikes both alike, and seldom every round.
    rounds = [(_seconds(written, _read), _seconds(written, lambda text: plan_order(_read(text), context)))
              for _ in range(times)]  # fmt: skip
    reading, planning = (median(seconds) for seconds in zip(*rounds, strict=True))
    print(f"reading alone       {len(written) / reading:8.0f} orders a second")
    print(f"reading and plan    {len(written) / planning:8.0f} orders a second")
    # Of each round by itself: the machine's pace changes from one to the next.
    print(f"ratio to the floor  {median(both / alone for alone, both in rounds):8.2f}")
    print(
        f"memory              {_peak_mib() - before:+8.1f} MiB while {2 * len(written) * times:,} orders went through"
    )


def _read(text: str) -> Order:
    return Order.read(text)


def setting() -> PlanningContext:
    """All that the demo's orders are planned under."""
    books = facts()["books"]
    codes = [
        {"code": one["code"], "name": one["name"], "rate_percent": one["rate"], "outside": one["outside"]}
        for one in books["tax_codes"]
    ]
    master_data = MasterData.read({
        "company": books["company"], "currency": books["currency"], "currencies": books["currencies"],
        "accounts": books["accounts"], "tax_codes": codes,
    })  # fmt: skip
    return PlanningContext(
        source="web-shop",
        rulebook=read(rulebook_text())[0].for_orders,
        master_data=master_data,
        capabilities=CAPABILITIES,
        time_zone="Europe/London",
        country="GB",
    )


def _seconds(written: list[str], work: Callable[[str], object]) -> float:
    began = time.perf_counter()
    for text in written:
        work(text)
    return time.perf_counter() - began


def _peak_mib() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


if __name__ == "__main__":
    main()
