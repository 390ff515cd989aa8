"""The typed client of Inkwell Bridge's API. It needs httpx and pydantic, and nothing of the service.

Example:
    client = Client("http://127.0.0.1:8000", token="ibt_...")
    marrowby = client.workspace("marrowby")
    run = marrowby.bridge("web-shop-to-uk-books").run()
    for crossing in marrowby.crossings(state=["held"]):
        print(crossing.number, crossing.cause)
"""

from inkwell_bridge.client.bridge import BridgeCalls
from inkwell_bridge.client.client import Client
from inkwell_bridge.client.connection import ConnectionCalls
from inkwell_bridge.client.errors import (
    ApiError,
    Conflict,
    Forbidden,
    Invalid,
    NotConfirmed,
    NotFound,
    NotSignedIn,
    NotUnderstood,
    Problem,
    Unreachable,
)
from inkwell_bridge.client.links import LinkCalls
from inkwell_bridge.client.months import MonthCalls
from inkwell_bridge.client.sheet import SheetCalls
from inkwell_bridge.client.workspace import WorkspaceCalls

__all__ = [
    "ApiError",
    "BridgeCalls",
    "Client",
    "Conflict",
    "ConnectionCalls",
    "Forbidden",
    "Invalid",
    "LinkCalls",
    "MonthCalls",
    "NotConfirmed",
    "NotFound",
    "NotSignedIn",
    "NotUnderstood",
    "Problem",
    "SheetCalls",
    "Unreachable",
    "WorkspaceCalls",
]
