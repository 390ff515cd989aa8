"""Reading what is sent: JSON, and not too much of it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import IO, Any

from django.conf import settings
from rest_framework import exceptions
from rest_framework.parsers import JSONParser


class TooLarge(exceptions.APIException):
    """More was sent than is read."""

    status_code = 413
    default_code = "too_large"


class BoundedJSONParser(JSONParser):
    """JSON of at most ``DATA_UPLOAD_MAX_MEMORY_SIZE`` bytes; the server cuts a body at its Content-Length."""

    def parse(
        self, stream: IO[Any], media_type: str | None = None, parser_context: Mapping[str, Any] | None = None
    ) -> Any:
        """See DRF's ``JSONParser.parse``."""
        request = (parser_context or {})["request"]
        limit = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
        if int(request.META.get("CONTENT_LENGTH") or 0) > limit:
            raise TooLarge(f"At most {limit:,} bytes are read.")
        return super().parse(stream, media_type, parser_context)
