"""Who may see and do what: every view of a workspace's things stands on this."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from rest_framework import exceptions
from rest_framework.request import Request
from rest_framework.views import APIView

from inkwell_bridge.core.text import UNFIT
from inkwell_bridge.service.api.not_here import not_here
from inkwell_bridge.service.people.models import Membership, Person, Token, Workspace
from inkwell_bridge.service.people.roles import Role, allows, lower


class InWorkspace(APIView):
    """A view under ``/workspaces/{workspace}``.

    A workspace where the person has no role answers as one that does not exist. ``needs`` gives the
    role that each method takes; reading takes ``see``, and all else ``operate`` unless it says more.
    """

    needs: dict[str, str] = {}
    workspace: Workspace
    role: str

    def initial(self, request: Request, *args: Any, **kwargs: Any) -> None:
        """Find the workspace and check the role before anything else is looked at."""
        super().initial(request, *args, **kwargs)
        if any(UNFIT.search(value) for value in kwargs.values() if isinstance(value, str)):
            raise exceptions.NotFound("There is nothing of this name here.")
        self.workspace, self.role = self._entry(request, kwargs["workspace"])
        needed = self.needed(request.method or "")
        if not allows(self.role, needed):
            raise exceptions.PermissionDenied(
                f"Your role here is '{Role(self.role).label}'; this takes '{Role(needed).label}'."
            )

    def needed(self, method: str) -> str:
        """The role that a method takes."""
        default = Role.SEE if method in {"GET", "HEAD", "OPTIONS"} else Role.OPERATE
        return self.needs.get(method, default)

    def _entry(self, request: Request, slug: str) -> tuple[Workspace, str]:
        membership = (
            Membership.objects.select_related("workspace").filter(workspace__slug=slug, person=request.user).first()
        )
        token = request.auth if isinstance(request.auth, Token) else None
        if membership is None or (token and token.workspace_id not in {None, membership.workspace_id}):
            raise exceptions.NotFound(f"There is no workspace {slug!r}, or you have no role in it.")
        role = lower(membership.role, token.role) if token else membership.role
        return membership.workspace, role

    @property
    def person(self) -> Person:
        """Who asks."""
        return self.request.user  # type: ignore[no-any-return]

    def named(self, rows: QuerySet[Any], what: str, slug: str) -> Any:
        """The one of this workspace's ``rows`` that has that name.

        Raises:
            NotFound: there is none; the near one is named, or all that there are.
        """
        own = self.own(rows)
        found = own.filter(slug=slug).first()
        if found is None:
            raise exceptions.NotFound(not_here(what, slug, own))
        return found

    def numbered(self, rows: QuerySet[Any], what: str, number: int, *, field: str = "pk") -> Any:
        """The one of ``rows`` that has that number.

        Raises:
            NotFound: there is none; the newest is named.
        """
        found = rows.filter(**{field: number}).first()
        if found is None:
            newest = rows.order_by(f"-{field}").values_list(field, flat=True).first()
            rest = f" The newest is {newest}." if newest is not None else ""
            raise exceptions.NotFound(f"There is no {what} {number} here.{rest}")
        return found

    def own(self, rows: QuerySet[Any]) -> QuerySet[Any]:
        """Those of ``rows`` that belong to this workspace; while the API is described, none."""
        if getattr(self, "swagger_fake_view", False):
            return rows.none()
        return rows.filter(workspace=self.workspace)
