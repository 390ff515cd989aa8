"""Give somebody a new password on the machine, where no mail can be sent; it is read from standard input."""

from __future__ import annotations

import sys
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from rest_framework.exceptions import ValidationError

from inkwell_bridge.service.people import passwords, second_factor
from inkwell_bridge.service.people.models import Person


class Command(BaseCommand):
    """``set_password EMAIL < password``: every session of theirs ends."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """What is asked for."""
        parser.add_argument("email")
        parser.add_argument(
            "--without-second-factor", action="store_true", help="for whoever lost their app and all recovery codes"
        )
        parser.add_argument("--withdraw-tokens", action="store_true", help="their tokens end too")

    def handle(self, *args: Any, **options: Any) -> None:
        """Set it."""
        person = Person.objects.filter(email=options["email"].strip().lower()).first()
        if person is None:
            raise CommandError(f"Nobody with the address {options['email']} has an account.")
        try:
            passwords.choose(person, sys.stdin.readline().rstrip("\n"), withdraw_tokens=options["withdraw_tokens"])
        except ValidationError as error:
            raise CommandError(" ".join(str(text) for text in error.detail["new_password"])) from error
        if options["without_second_factor"]:
            second_factor.turn_off(person)
        self.stdout.write(f"{person.email} signs in with the new password from now on.")
