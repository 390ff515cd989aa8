"""Particulars of a contact in an end's own words: those that are to change, and who is the same by them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from inkwell_bridge.core.books import Contact, Particular, Step

Json = Mapping[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactWords:
    """What ledgers call the particulars of a contact, where they have one name for it and one for whom to ask for."""

    tax_number: str = "tax_number"
    billing: str = "billing"
    delivery: str = "delivery"

    @property
    def places(self) -> dict[Particular, tuple[str, ...]]:
        """The fields that hold each particular."""
        return {
            "name": ("name", "person"),
            "tax number": (self.tax_number,),
            "billing": (self.billing,),
            "delivery": (self.delivery,),
            **{name: (name,) for name in ("email", "phone", "language", "group", "terms")},
        }

    def write(self, contact: Contact) -> dict[str, Any]:
        """A contact as it is made there; one without a name goes by its e-mail."""
        return {
            "name": contact.company or contact.name or contact.email,
            "person": contact.name,
            self.tax_number: contact.tax_number,
            **{name: getattr(contact, name) for name in ("email", "phone", "language", "group", "terms")},
            self.billing: contact.billing.as_json() if contact.billing else None,
            self.delivery: contact.delivery.as_json() if contact.delivery else None,
        }

    def read(self, said: Json) -> Contact:
        """A contact that is there; of one that is a company, ``person`` is who to ask for."""
        return Contact.read(
            {
                "email": str(said.get("email") or "").strip().lower(),
                "name": said["name"],
                "tax_number": said.get(self.tax_number) or "",
                **{name: said.get(name) or "" for name in ("phone", "language", "group", "terms")},
                "billing": said.get(self.billing),
                "delivery": said.get(self.delivery),
            }
        )


def chosen(said: Json, places: Mapping[Particular, tuple[str, ...]], only: Sequence[Particular]) -> dict[str, Any]:
    """What ``said`` has in the places of some particulars."""
    wanted = {name for particular in only for name in places.get(particular, ())}
    return {name: value for name, value in said.items() if name in wanted}


def same(
    found: Iterable[dict[str, Any]], read: Callable[[dict[str, Any]], Contact], contact: Contact, by: Step
) -> tuple[str, ...]:
    """The ids of those found that are the same by a step: an end may compare more loosely than we do."""
    return tuple(str(one["id"]) for one in found if read(one).key(by) == contact.key(by))
