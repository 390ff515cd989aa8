"""Links into the console, and the one that ends a rule's messages."""

from __future__ import annotations

from django.conf import settings
from django.core import signing

from inkwell_bridge.service.notices.models import NoticeRule
from inkwell_bridge.service.people.models import Workspace

_SALT = "inkwell.notices.stop"


def console(workspace: Workspace, page: str) -> str:
    """The address of a page of the console."""
    return f"{settings.PUBLIC_ADDRESS}/{workspace.slug}/{page}".rstrip("/")


def stop_link(rule: NoticeRule) -> str:
    """What ends the messages of a rule, without signing in: it ends them, and can do nothing else."""
    return f"{settings.PUBLIC_ADDRESS}/notices/stop/{signing.dumps(rule.pk, salt=_SALT)}"


def rule_of(token: str) -> NoticeRule | None:
    """The rule that a link is about; nothing where it is none of ours."""
    try:
        number = signing.loads(token, salt=_SALT)
    except signing.BadSignature:
        return None
    return NoticeRule.objects.select_related("workspace", "person").filter(pk=number).first()
