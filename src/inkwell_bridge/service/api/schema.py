"""What the OpenApi document says of signing in."""

from __future__ import annotations

from typing import Any

from drf_spectacular.extensions import OpenApiAuthenticationExtension


class BearerScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """Tokens (RFC 6750)."""

    target_class = "inkwell_bridge.service.people.authentication.BearerAuthentication"
    name = "token"

    def get_security_definition(self, auto_schema: Any) -> dict[str, Any]:
        """The scheme as OpenAPI names it."""
        return {"type": "http", "scheme": "bearer", "description": "A token made at POST /api/v1/tokens."}
