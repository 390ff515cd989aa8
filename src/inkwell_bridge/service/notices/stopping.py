"""The page that a message's own link leads to: it ends these messages, without signing in."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.utils.html import escape
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_http_methods

from inkwell_bridge.service.notices.links import rule_of
from inkwell_bridge.service.notices.models import NoticeRule
from inkwell_bridge.service.people.trail import record

_PAGE = """<!doctype html><html lang="en-GB"><head><meta charset="utf-8"><title>{title}</title>
<meta name="viewport" content="width=device-width"></head>
<body><main><h1>{title}</h1><p>{text}</p>{form}</main></body></html>"""
_FORM = '<form method="post"><button type="submit">End these messages</button></form>'


# The link itself is the right: who holds it has the mail. A mail reader's one click (RFC 8058) has no cookie.
@csrf_exempt
@require_http_methods(["GET", "HEAD", "POST"])
def stop(request: HttpRequest, token: str) -> HttpResponse:
    """Ask before ending them, for readers of mail follow links by themselves; end them when asked to."""
    rule = rule_of(token)
    if rule is None:
        return _page("There is nothing to end", "This link is about no notices that there are.", status=404)
    name = rule.workspace.name
    if request.method == "POST":
        if NoticeRule.objects.filter(pk=rule.pk, on=True).update(on=False):
            record(rule.workspace, rule.person, "notice rule.stopped", rule.person.email if rule.person else "")
        return _page(
            "They are ended",
            f"No more of these messages about {name} will come. They can be switched on again in its settings.",
        )
    return _page("End these messages?", f"They tell what needs somebody at {name}.", form=_FORM)


def _page(title: str, text: str, *, form: str = "", status: int = 200) -> HttpResponse:
    return HttpResponse(_PAGE.format(title=escape(title), text=escape(text), form=form), status=status)
