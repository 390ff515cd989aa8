"""What the OpenAPI document says of signing in, of roles, and of what can go wrong."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from drf_spectacular.extensions import OpenApiAuthenticationExtension
from drf_spectacular.openapi import AutoSchema
from drf_spectacular.plumbing import ResolvedComponent
from rest_framework.permissions import AllowAny

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.outward import is_asking_outside
from inkwell_bridge.service.api.problem import MEDIA_TYPE, TITLES

_TEXT = {"type": "string"}
_PROBLEM = {
    "type": "object",
    "description": "What happened, why, and what to do (RFC 9457). Some problems have further members.",
    "required": ["type", "title", "status", "code", "detail", "hint", "instance"],
    "properties": {
        **dict.fromkeys(("type", "title", "code", "detail", "hint", "instance"), _TEXT),
        "status": {"type": "integer"},
        "errors": {
            "type": "array",
            "description": "Each thing that is wrong, and where it stands (JSON Pointer, RFC 6901).",
            "items": {"type": "object", "required": ["detail", "pointer"], "additionalProperties": True,
                      "properties": {"detail": _TEXT, "pointer": {"type": ["string", "null"]}}},
        },
    },
}  # fmt: skip


class RoleSchema(AutoSchema):
    """Says with each call of a workspace which role it takes, as ``x-role``; and with every call how it can fail."""

    def get_operation(self, *args: Any, **options: Any) -> Any:
        """See drf-spectacular's ``AutoSchema``."""
        operation = super().get_operation(*args, **options)
        if operation is None:
            return None
        if isinstance(self.view, InWorkspace):
            operation["x-role"] = str(self.view.needed(self.method))
        problem = ResolvedComponent("Problem", ResolvedComponent.SCHEMA, _PROBLEM, object="Problem")
        self.registry.register_on_missing(problem)
        for status in self._failures("requestBody" in operation):
            operation["responses"].setdefault(str(status), {
                "description": TITLES[status], "content": {MEDIA_TYPE: {"schema": problem.ref}},
            })  # fmt: skip
        operation["responses"] = dict(sorted(operation["responses"].items()))
        return operation

    def _failures(self, has_body: bool) -> Iterator[int]:
        """The statuses of what can go wrong with a call: what stands in its address, what it brings, who sends it."""
        public = any(isinstance(permission, AllowAny) for permission in self.view.get_permissions())
        reads = self.method == "GET"
        yield from (400, 406, 414)
        # Who sends a token that is none is told so everywhere.
        yield 401
        if not public or not reads:
            yield 403
        if "{" in self.path or reads:
            yield 404
        if not reads:
            yield from (409, 422)
        if has_body:
            yield from (413, 415)
        if self.view.get_throttles():
            yield 429
        if public and not reads:
            # Links end, and the provider of identities may fail.
            yield from (404, 410, 502)
        if is_asking_outside(getattr(self.view, self.method.lower(), None)):
            yield 503


class BearerScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """Tokens (RFC 6750)."""

    target_class = "inkwell_bridge.service.people.authentication.BearerAuthentication"
    name = "token"

    def get_security_definition(self, auto_schema: Any) -> dict[str, Any]:
        """The scheme as OpenAPI names it."""
        return {"type": "http", "scheme": "bearer", "description": "A token made at POST /api/v1/tokens."}
