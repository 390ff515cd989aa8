"""Workspaces, companies, people, and the trail of what they did."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
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


class Company(WorkspaceOwned):
    """A company of the client: whose books they are, in which currency and time zone."""

    slug = slug_field()
    name = models.CharField(max_length=200)
    country = models.CharField(max_length=2)
    currency = models.CharField(max_length=3)
    time_zone = models.CharField(max_length=60)

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


class Token(models.Model):
    """A key for programs: only its digest is kept. It can be bound to a workspace and to a lower role."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="tokens")
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, null=True, related_name="+")
    role = models.CharField(max_length=10, choices=Role, default=Role.OWN)
    name = models.CharField(max_length=100)
    digest = models.CharField(max_length=64, unique=True)
    created_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField(null=True)


class TrailEntry(WorkspaceOwned):
    """Who did what, when. The database refuses to change or delete an entry."""

    at = models.DateTimeField(auto_now_add=True)
    person = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")
    action = models.CharField(max_length=60)
    about = models.CharField(max_length=200)
    details = models.JSONField(default=dict)

    class Meta:
        indexes = [models.Index(fields=["workspace", "-id"], name="trail_newest")]
