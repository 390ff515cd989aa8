"""Reading what is sent."""

from __future__ import annotations

from typing import Any

from rest_framework.exceptions import ParseError
from rest_framework.parsers import JSONParser


class BoundedJSONParser(JSONParser):
    """JSON; its size is bounded by ``DATA_UPLOAD_MAX_MEMORY_SIZE``, its depth by what Python goes down to."""

    def parse(self, *args: Any, **options: Any) -> Any:
        """See DRF's parser.

        Raises:
            ParseError: it is no JSON, or nested too deep.
        """
        try:
            return super().parse(*args, **options)
        except RecursionError as error:
            raise ParseError("This JSON is nested too deep.") from error
