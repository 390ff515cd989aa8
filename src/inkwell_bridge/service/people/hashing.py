"""How passwords are kept."""

from __future__ import annotations

from django.contrib.auth.hashers import Argon2PasswordHasher


class Argon2id(Argon2PasswordHasher):
    """Argon2id (RFC 9106) with 46 MiB, one pass and one lane: what OWASP's cheat sheet on password storage names first.

    Django's own default takes 100 MiB and eight lanes for each try, which a few dozen people who sign in at once would
    turn into gigabytes.
    """

    time_cost = 1
    memory_cost = 47_104
    parallelism = 1
