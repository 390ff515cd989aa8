"""Going through a list page by page, to its end."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Protocol, TypeVar

from inkwell_bridge.ends.errors import Misstated

MOST_PAGES = 100_000


class HasNext(Protocol):
    """A page that may lead on."""

    @property
    def next(self) -> str | None:
        """Where it leads on; nothing on the last."""


PageOf = TypeVar("PageOf", bound=HasNext)


def every_page(ask: Callable[[str | None], PageOf], *, of: str, most: int = MOST_PAGES) -> Iterator[PageOf]:
    """The pages that ``ask`` answers, from the first (asked for with nothing) to the last; ``of`` names the list.

    Raises:
        Misstated: a page leads back to itself, or there is no end. A part of a list is none: its sum would be wrong.
    """
    page: str | None = None
    for _ in range(most):
        told = ask(page)
        yield told
        if told.next is None:
            return
        if told.next == page:
            raise Misstated(f"{of} leads back to the page that it comes from")
        page = told.next
    raise Misstated(f"{of} has more than {most:,} pages")
