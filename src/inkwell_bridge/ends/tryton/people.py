"""Contacts: parties in Tryton, with their addresses, e-mail, telephone and tax number."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from inkwell_bridge.core.books import Contact, Particular, Step
from inkwell_bridge.core.commerce import Address
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.particulars import chosen, same
from inkwell_bridge.ends.shapes import Entered
from inkwell_bridge.ends.tryton.names import Names
from inkwell_bridge.ends.tryton.rpc import TrytonRpc

# Numbers of the EU begin with the country, as ISO writes it, but for Greece; Tryton checks their digits itself.
_EU_NUMBER = re.compile(
    r"(AT|BE|BG|CY|CZ|DE|DK|EE|EL|ES|FI|FR|HR|HU|IE|IT|LT|LU|LV|MT|NL|PL|PT|RO|SE|SI|SK|XI)[0-9A-Z]+"
)
_KEPT = ("email", "phone")
_FIELDS = ["name", "code", "contact_mechanisms.type", "contact_mechanisms.value", "identifiers.code",
           "addresses.street", "addresses.city", "addresses.postal_code"]  # fmt: skip


class People:
    """Finding, making and amending parties."""

    def __init__(self, rpc: TrytonRpc, names: Names) -> None:
        self._rpc, self._names = rpc, names

    def find(self, contact: Contact, by: Step) -> tuple[str, ...]:
        """Parties by their code, for a house account, else by e-mail, tax number, or name with postcode."""
        if contact.house_code:
            return _ids(self._rpc.read("model.party.party.search", [["code", "=", contact.house_code]], 0, 2, None))
        if not contact.key(by):
            return ()
        if by != "email":
            return self._alike(contact, by)
        # "ilike" takes signs for any letter, so what it finds is looked at again.
        domain = [["type", "=", "email"], ["value", "ilike", contact.email], ["party", "!=", None]]
        rows = self._rpc.search("party.contact_mechanism", domain, ["value", "party"], order=[["party", "ASC"]])
        wanted = contact.email.strip().lower()
        return _ids(dict.fromkeys(row["party"] for row in rows if row["value"].strip().lower() == wanted))

    def _alike(self, contact: Contact, by: Step) -> tuple[str, ...]:
        """Tryton keeps tax numbers without spaces; postcodes as they were typed, so it is asked for names instead."""
        domain = (["identifiers.code", "=", contact.key(by)] if by == "tax number"
                  else ["name", "ilike", contact.company or contact.name])  # fmt: skip
        found = self._rpc.search("party.party", [domain], _FIELDS, order=[["id", "ASC"]])
        return same(found, _contact, contact, by)

    def listed(self, after: int) -> tuple[Entered, ...]:
        """Parties by their ids, from behind one on."""
        found = self._rpc.listed("party.party", after, _FIELDS)
        return tuple(Entered(id=str(one["id"]), code=one["code"] or "", what=_contact(one)) for one in found)

    def create(self, contact: Contact) -> str:
        """A new party."""
        self._names.company()
        parts = {
            "addresses": [["create", self._addresses(contact)]],
            "contact_mechanisms": [["create", _ways(contact)]],
        }
        numbers = [["create", [_number(contact.tax_number)]]] if contact.tax_number else []
        made = self._rpc.change(
            "model.party.party.create", [{**self._particulars(contact), **parts, "identifiers": numbers}]
        )
        return str(made[0])

    def amend(self, party_id: str, contact: Contact, only: Sequence[Particular]) -> None:
        """Other particulars for a party; ways to reach it that we know nothing of stay."""
        self._names.company()
        fields = ["addresses", "contact_mechanisms.type", "contact_mechanisms.value", "identifiers.code"]
        found = self._rpc.search("party.party", [["id", "=", int(party_id)]], fields)
        if not found:
            raise Refused(f"Tryton has no party {party_id}", why="not found")
        (party,) = found
        ways = [way for way in _ways(contact) if way["type"] in only]
        said = {**self._particulars(contact), **_changed_ways(party["contact_mechanisms."], ways)}
        if contact.tax_number and all(one["code"] != contact.tax_number for one in party["identifiers."]):
            said["identifiers"] = [["create", [_number(contact.tax_number)]]]
        addresses = self._addresses(contact)
        first = party["addresses"][:1]
        said["addresses"] = [["write", first, addresses[0]]] if first else [["create", addresses]]
        changed = chosen(said, _PLACES, only)
        if changed:
            self._rpc.change("model.party.party.write", [int(party_id)], changed)

    def _particulars(self, contact: Contact) -> dict[str, Any]:
        said: dict[str, Any] = {"name": contact.company or contact.name or contact.email}
        if contact.terms:
            said["customer_payment_term"] = self._names.one("terms", contact.terms)
        return said

    def _addresses(self, contact: Contact) -> list[dict[str, Any]]:
        """The billing address first, for documents are made out to it; a party without any has an empty one."""
        billing, delivery = contact.billing, contact.delivery
        found = [{**self._address(billing, contact), "invoice": True}]
        if delivery and delivery != billing:
            found.append({**self._address(delivery, contact), "delivery": True})
        return found

    def _address(self, address: Address | None, contact: Contact) -> dict[str, Any]:
        said: dict[str, Any] = {"party_name": contact.name} if contact.company and contact.name else {}
        if address is None:
            return said
        # Tryton keeps countries and regions as records, which it may lack: the region stays in the street.
        street = "\n".join([*address.lines, *([address.region] if address.region else [])])
        country = self._names.maybe("country", address.country)
        return said | {"street": street, "city": address.town, "postal_code": address.postcode, "country": country}


def _contact(party: dict[str, Any]) -> Contact:
    ways = {way["type"]: way["value"] for way in reversed(party["contact_mechanisms."])}
    address = next(iter(party["addresses."]), None)
    return Contact.read(
        {
            "name": party["name"] or "",
            "email": (ways.get("email") or "").strip().lower(),
            "phone": ways.get("phone") or "",
            "tax_number": next((one["code"] for one in party["identifiers."]), ""),
            "billing": address and {"lines": (address["street"] or "").splitlines(), "town": address["city"] or "",
                                    "postcode": address["postal_code"] or ""},
        }
    )  # fmt: skip


def _ids(numbers: Any) -> tuple[str, ...]:
    return tuple(str(number) for number in numbers)


def _ways(contact: Contact) -> list[dict[str, Any]]:
    return [{"type": kind, "value": getattr(contact, kind)} for kind in _KEPT if getattr(contact, kind)]


_PLACES: dict[Particular, tuple[str, ...]] = {
    "name": ("name",),
    "email": ("contact_mechanisms",),
    "phone": ("contact_mechanisms",),
    "tax number": ("identifiers",),
    "terms": ("customer_payment_term",),
    "billing": ("addresses",),
}


def _changed_ways(there: Sequence[dict[str, Any]], ways: Sequence[dict[str, Any]]) -> dict[str, Any]:
    actions: list[Any] = []
    for way in ways:
        same = [one for one in there if one["type"] == way["type"]]
        if not same:
            actions.append(["create", [way]])
        elif all(one["value"] != way["value"] for one in same):
            actions.append(["write", [same[0]["id"]], way])
    return {"contact_mechanisms": actions} if actions else {}


def _number(tax_number: str) -> dict[str, Any]:
    return {"type": "eu_vat" if _EU_NUMBER.fullmatch(tax_number) else None, "code": tax_number}
