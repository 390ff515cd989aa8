"""The second factor: codes of an authenticator app, and recovery codes for whoever has lost it.

Source: time-based one-time passwords (RFC 6238), six digits, steps of thirty seconds.
"""

from __future__ import annotations

import secrets
import time
from dataclasses import dataclass

import pyotp
import segno
from django.db import transaction
from django.utils import timezone

from inkwell_bridge.service import vault
from inkwell_bridge.service.blinding import digest_of_secret
from inkwell_bridge.service.people.models import Person, RecoveryCode, SecondFactor
from inkwell_bridge.service.refusal import Refusal

RECOVERY_CODES = 10
# Without signs that are easily taken for one another.
ALPHABET = "abcdefghjkmnpqrstuvwxyz23456789"
STEP_SECONDS = 30
# A clock may be one step off either way.
STEPS_OFF = (-1, 0, 1)


class AlreadyOn(Refusal):
    """A second factor in use is not overwritten by another."""

    code = "second-factor-on"
    hint = "Turn it off first, with a code of it or a recovery code."


class WrongCode(Refusal):
    """A code that is not the app's."""

    status = 400
    code = "wrong-code"
    hint = "Look that the clock of the device is right, and enter the code that is shown now."


@dataclass(frozen=True, slots=True)
class Offered:
    """A secret to put into an app: as text, as address (``otpauth:``) and as a picture of it (``data:``, SVG)."""

    secret: str
    address: str
    picture: str


def is_on(person: Person) -> bool:
    """Whether signing in as this person takes a code."""
    return SecondFactor.objects.filter(person=person, confirmed_at__isnull=False).exists()


@transaction.atomic
def offer(person: Person) -> Offered:
    """Make a secret; it counts for nothing until ``confirm``.

    Raises:
        AlreadyOn: there is one in use.
    """
    found = SecondFactor.objects.select_for_update().filter(person=person).first()
    if found is not None and found.confirmed_at is not None:
        raise AlreadyOn("The second factor is on already.")
    secret = pyotp.random_base32()
    SecondFactor.objects.update_or_create(
        # Sealed, not digested: the codes of the app are worked out from the secret itself each time.
        person=person,
        defaults={"sealed": vault.seal({"secret": secret}, owner=_owner(person)), "last_step": 0},
    )
    address = pyotp.TOTP(secret).provisioning_uri(name=person.email, issuer_name="Inkwell Bridge")
    return Offered(secret, address, segno.make(address).svg_data_uri(scale=4, border=4, light="#fff"))


@transaction.atomic
def confirm(person: Person, code: str) -> list[str]:
    """Turn it on with a first code of the app; answers the recovery codes, which are shown this once.

    Raises:
        WrongCode: nothing was changed.
    """
    if is_on(person):
        raise AlreadyOn("The second factor is on already.")
    if not _is_of_app(person, code):
        raise WrongCode("This is not the code that the app shows now.")
    SecondFactor.objects.filter(person=person).update(confirmed_at=timezone.now())
    return renew_recovery_codes(person)


@transaction.atomic
def accept(person: Person, code: str) -> bool:
    """Take a code of the app or a recovery code; neither is good a second time."""
    tidy = "".join(code.split()).lower()
    if tidy.isascii() and tidy.isdigit() and len(tidy) == 6:
        return _is_of_app(person, tidy)
    # Deleting is the test: of two who use the same code at once, one deletes a row and the other none.
    used, _ = RecoveryCode.objects.filter(person=person, digest=_digest(tidy)).delete()
    return used == 1


@transaction.atomic
def renew_recovery_codes(person: Person) -> list[str]:
    """New ones in place of those there are."""
    codes = ["-".join("".join(secrets.choice(ALPHABET) for _ in range(5)) for _ in range(3)) for _ in
             range(RECOVERY_CODES)]  # fmt: skip
    RecoveryCode.objects.filter(person=person).delete()
    RecoveryCode.objects.bulk_create(RecoveryCode(person=person, digest=_digest(code)) for code in codes)
    return codes


@transaction.atomic
def turn_off(person: Person) -> None:
    """Do without from now on."""
    SecondFactor.objects.filter(person=person).delete()
    RecoveryCode.objects.filter(person=person).delete()


def _is_of_app(person: Person, code: str) -> bool:
    # Locked, so that of two who send the same code at once only one is let in.
    found = SecondFactor.objects.select_for_update().filter(person=person).first()
    if found is None:
        return False
    codes = pyotp.TOTP(vault.unseal(found.sealed, owner=_owner(person))["secret"], interval=STEP_SECONDS)
    now = int(time.time()) // STEP_SECONDS
    for step in (now + off for off in STEPS_OFF):
        if step > found.last_step and secrets.compare_digest(codes.generate_otp(step).encode(), code.encode()):
            SecondFactor.objects.filter(pk=found.pk).update(last_step=step)
            return True
    return False


def _owner(person: Person) -> str:
    return f"person {person.pk}"


def _digest(code: str) -> str:
    return digest_of_secret(code.replace("-", ""))
