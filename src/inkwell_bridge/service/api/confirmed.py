"""Whether a request says that what ends something is meant."""

from __future__ import annotations

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter
from rest_framework.request import Request

CONFIRM = OpenApiParameter(
    "confirm", OpenApiTypes.BOOL, description="That it is meant; without it the answer says what would end."
)


def is_confirmed(request: Request) -> bool:
    """Whether the request has ``?confirm=true``."""
    return request.query_params.get("confirm", "").lower() in {"true", "1", "yes"}
