"""Mail that nobody waits for."""

from __future__ import annotations

from smtplib import SMTPException

import structlog
from procrastinate.contrib.django import app

from inkwell_bridge.service import queue
from inkwell_bridge.service.people import passwords
from inkwell_bridge.service.people.models import Person

log = structlog.get_logger("inkwell.people")


@app.task(name=queue.MAIL_RESET, queue=queue.READING)
def mail_reset(*, person_id: int, page: str) -> None:
    """Mail somebody the link to choose a password by; 0 is nobody, see ``passwords_api.ResetView``."""
    person = Person.objects.filter(pk=person_id, is_active=True).first()
    if person is None:
        return
    try:
        passwords.mail_link(person, page)
    except (OSError, SMTPException) as error:
        # What a mail server says of it may name the address, which no log is to have.
        log.warning("mail.failed", person=person_id, error=type(error).__name__)
