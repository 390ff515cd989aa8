"""What the OpenAPI document says of signing in, and of roles."""

from __future__ import annotations

from typing import Any

from drf_spectacular.extensions import OpenApiAuthenticationExtension
from drf_spectacular.openapi import AutoSchema

from inkwell_bridge.service.api.access import InWorkspace


class RoleSchema(AutoSchema):
    """Says with each call of a workspace which role it takes, as ``x-role``."""

    def get_operation(self, *args: Any, **options: Any) -> Any:
        """See drf-spectacular's ``AutoSchema``."""
        operation = super().get_operation(*args, **options)
        if operation is not None and isinstance(self.view, InWorkspace):
            operation["x-role"] = str(self.view.needed(self.method))
        return operation


class BearerScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """Tokens (RFC 6750)."""

    target_class = "inkwell_bridge.service.people.authentication.BearerAuthentication"
    name = "token"

    def get_security_definition(self, auto_schema: Any) -> dict[str, Any]:
        """The scheme as OpenAPI names it."""
        return {"type": "http", "scheme": "bearer", "description": "A token made at POST /api/v1/tokens."}
