"""Open a workspace with its first owner; the password is read from standard input, never from an argument."""

from __future__ import annotations

import sys
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from inkwell_bridge.service.people.models import Membership, Person, Workspace
from inkwell_bridge.service.people.roles import Role


class Command(BaseCommand):
    """``open_workspace SLUG --name NAME --owner EMAIL < password``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """What is asked for."""
        parser.add_argument("slug")
        parser.add_argument("--name", required=True)
        parser.add_argument("--owner", required=True, help="e-mail of the first owner")
        parser.add_argument("--owner-name", default="")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        """Make what is not there yet."""
        email = options["owner"].strip().lower()
        person = Person.objects.filter(email=email).first()
        if person is None:
            password = sys.stdin.readline().rstrip("\n")
            name = options["owner_name"] or email
            try:
                validate_password(password, Person(email=email, name=name))
            except ValidationError as error:
                raise CommandError(" ".join(error.messages)) from error
            person = Person.objects.create_user(email, password, name=name)
        workspace, _ = Workspace.objects.get_or_create(slug=options["slug"], defaults={"name": options["name"]})
        Membership.objects.update_or_create(workspace=workspace, person=person, defaults={"role": Role.OWN})
        self.stdout.write(f"Workspace {workspace.slug} is open; {email} owns it.")
