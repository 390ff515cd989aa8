"""Workspaces, companies, people, and the trail of what they did."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models
from django.db.models.functions import Lower

from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.tenancy import WorkspaceOwned, slug_field


class Workspace(models.Model):
    """One client."""

    slug = slug_field(unique=True)
    name = models.CharField(max_length=200)
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.slug


class ReportLanguage(models.TextChoices):
    """A language that reports are written in (ISO 639-1)."""

    ENGLISH = "en", "English"
    GERMAN = "de", "German"
    FRENCH = "fr", "French"


class Company(WorkspaceOwned):
    """A company of the client: whose books they are, in which currency and time zone.

    ``two_close`` is the rule that a month is closed by another person than the one who proposed it; the reports of its
    months are in ``report_language``.
    """

    slug = slug_field()
    name = models.CharField(max_length=200)
    country = models.CharField(max_length=2)
    currency = models.CharField(max_length=3)
    time_zone = models.CharField(max_length=60)
    two_close = models.BooleanField(default=False)
    report_language = models.CharField(max_length=2, choices=ReportLanguage, default=ReportLanguage.ENGLISH)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "slug"], name="company_slug")]


class PersonManager(BaseUserManager["Person"]):
    """Makes people; e-mails are kept in lower case."""

    def create_user(self, email: str, password: str | None = None, **fields: Any) -> Person:
        """A person who can sign in."""
        person = self.model(email=email.strip().lower(), **fields)
        person.set_password(password)
        person.save(using=self._db)
        return person


class Person(AbstractBaseUser):
    """Somebody who signs in."""

    email = models.EmailField(unique=True)
    name = models.CharField(max_length=200)
    is_active = models.BooleanField(default=True)
    created_at = models.DateTimeField(auto_now_add=True)

    objects = PersonManager()
    USERNAME_FIELD = "email"

    class Meta:
        constraints = [models.UniqueConstraint(Lower("email"), name="person_email")]


class Membership(WorkspaceOwned):
    """What a person may do in a workspace."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "person"], name="membership_person")]


class Invitation(WorkspaceOwned):
    """Somebody who was asked to come, until they have: nobody has a role that they did not take themselves.

    The link that was sent holds a secret of which only the digest is kept; it works once, until ``ends_at``.
    """

    email = models.EmailField()
    name = models.CharField(max_length=200, default="", blank=True)
    role = models.CharField(max_length=10, choices=Role)
    digest = models.CharField(max_length=64, unique=True)
    invited_by = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    invited_at = models.DateTimeField()
    ends_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "email"], name="invitation_email")]


class SignInFailure(models.Model):
    """A try to sign in that failed, by the digest of an account, of an address, or of both; see ``brake``."""

    digest = models.CharField(max_length=64)
    at = models.DateTimeField()

    class Meta:
        indexes = [
            models.Index(fields=["digest", "at"], name="failure_of"),
            models.Index(fields=["at"], name="failure_age"),
        ]


class Token(models.Model):
    """A key for programs: only its digest is kept. It can be bound to a workspace and to a lower role."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="tokens")
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, null=True, related_name="+")
    role = models.CharField(max_length=10, choices=Role, default=Role.OWN)
    name = models.CharField(max_length=100)
    digest = models.CharField(max_length=64, unique=True)
    created_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField(null=True)
    last_used_at = models.DateTimeField(null=True)


class BrowserSession(AbstractBaseSession):
    """A browser that somebody signed in with; its key stands here as a digest, see ``browser_sessions``."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, null=True, related_name="browser_sessions")
    number = models.BigIntegerField(unique=True)
    started_at = models.DateTimeField()
    last_used_at = models.DateTimeField()
    address = models.CharField(max_length=45, default="")
    browser = models.CharField(max_length=200, default="")

    class Meta:
        indexes = [models.Index(fields=["person", "-last_used_at"], name="browser_session_of")]


class SecondFactor(models.Model):
    """The secret that a person's authenticator app shares with us; it counts once a code of it was entered.

    ``last_step`` is the newest step of time whose code was taken, so that none is good twice.
    """

    person = models.OneToOneField(Person, on_delete=models.CASCADE, related_name="second_factor")
    sealed = models.BinaryField()
    confirmed_at = models.DateTimeField(null=True)
    last_step = models.BigIntegerField(default=0)


class RecoveryCode(models.Model):
    """A code for whoever has lost their authenticator app: good once, and kept as a digest."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="recovery_codes")
    digest = models.CharField(max_length=64)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "digest"], name="recovery_code")]


class Identity(models.Model):
    """By whom a person is known at the provider of identities that the service trusts (``openid``)."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="identities")
    issuer = models.CharField(max_length=200)
    subject = models.CharField(max_length=255)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["issuer", "subject"], name="identity_subject")]


class TrailEntry(WorkspaceOwned):
    """Who did what, when. The database refuses to change or delete an entry."""

    at = models.DateTimeField(auto_now_add=True)
    person = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    action = models.CharField(max_length=60)
    about = models.CharField(max_length=200)
    details = models.JSONField(default=dict)

    class Meta:
        indexes = [models.Index(fields=["workspace", "-id"], name="trail_newest")]
