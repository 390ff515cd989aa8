"""The ERP's company, the names of things in it, its contacts and articles."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.standins.erp import settling
from inkwell_bridge.standins.erp.refusal import refused
from inkwell_bridge.standins.store import Store

LISTS = ("account", "tax_code", "warehouse", "term", "period", "price_list", "unit", "delivery_way", "seller",
         "print_language")  # fmt: skip
LARGEST_PAGE = 1000
_SECRET = {"user", "password"}


class Company:
    """What changes seldom."""

    def __init__(self, store: Store) -> None:
        self.store = store

    def load(self, world: str, contents: dict[str, Any]) -> list[dict[str, Any]]:
        """Fill a world with a company and its lists; ``reset`` empties it first. ``edited`` are documents that somebody
        changed at a screen of the books, such as ``{"invoice": {"7": {"date": "2026-11-02"}}}``, ``entered`` whole
        ones, and ``deleted`` the numbers of those that somebody took away; answers those as they were, or are now."""
        if contents.get("reset"):
            self.store.clear(world)
        if "company" in contents:
            self.store.put(world, "company", 1, contents["company"])
        for kind in LISTS:
            if f"{kind}s" in contents:
                self.store.forget(world, kind)
            for number, entry in enumerate(contents.get(f"{kind}s", []), start=1):
                self.store.put(world, kind, number, entry, find=entry.get("code", entry["name"]))
        for contact in contents.get("contacts", []):
            self.store.add(world, "contact", contact, find=email_of(contact))
        for article in contents.get("articles", []):
            self.store.add(world, "article", article, find=article["code"])
        for level in contents.get("stock", []):
            self.store.add(world, "stock", level, find=f"{level['article']}|{level['warehouse']}",
                           sort=level["changed"])  # fmt: skip

        touched: list[dict[str, Any]] = []
        for kind, documents in contents.get("edited", {}).items():
            touched += [found for number in documents if (found := self.store.get(world, kind, int(number)))]
            for number, fields in documents.items():
                self._free_where_gone(world, kind, int(number), state=fields.get("state", ""))
                self.store.edit(world, kind, int(number), fields)
        for kind, documents in contents.get("entered", {}).items():
            touched += documents
            for document in documents:
                self.store.put(world, kind, document["id"], document, find=document["reference"],
                               sort=document.get("changed", ""))  # fmt: skip
        for kind, numbers in contents.get("deleted", {}).items():
            touched += [found for number in numbers if (found := self.store.get(world, kind, number))]
            for number in numbers:
                self._free_where_gone(world, kind, number, state="void")
                self.store.remove(world, kind, number)
        return touched

    def _free_where_gone(self, world: str, kind: str, number: int, *, state: str) -> None:
        money = self.store.get(world, kind, number) if kind in ("receipt", "repayment") and state == "void" else None
        if money is not None:
            settling.free(self.store, world, money)

    def facts(self, world: str) -> dict[str, Any]:
        """The company, its secrets among them."""
        return self.store.get(world, "company", 1) or {}

    def describe(self, world: str, _: dict[str, Any]) -> dict[str, Any]:
        """The company, without its secrets."""
        return {name: value for name, value in self.facts(world).items() if name not in _SECRET}

    def names(self, world: str, _: dict[str, Any]) -> dict[str, Any]:
        """Everything that has a code."""
        lists = {f"{kind}s": self.store.all(world, kind) for kind in LISTS}
        return {
            **lists,
            "currencies": self.facts(world).get("currencies", [self.facts(world)["currency"]]),
        }

    def listed(self, world: str, kind: str, params: dict[str, Any]) -> dict[str, Any]:
        """Contacts or articles by their ids, a page at a time."""
        return self.store.behind(world, kind, after=int(params["after"]), limit=min(int(params["limit"]), LARGEST_PAGE))

    def search_contacts(self, world: str, params: dict[str, Any]) -> list[dict[str, Any]]:
        """Contacts with that e-mail, whatever its case, or with that code, tax number or postcode."""
        if "email" in params:
            return self.store.search(world, "contact", params["email"].strip().lower())
        if "tax_number" in params:
            number = _plain(params["tax_number"])
            return [one for one in self.store.all(world, "contact") if _plain(one.get("tax_number")) == number]
        if "postcode" in params:
            code = _plain(params["postcode"])
            return [one for one in self.store.all(world, "contact") if code in _postcodes(one)]
        return [contact for contact in self.store.all(world, "contact") if contact.get("code") == params["code"]]

    def create_contact(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """A new contact; the ERP does not mind a second with the same e-mail."""
        if not params["name"]:
            raise refused("a contact needs a name", field="name")
        return {"id": self.store.add(world, "contact", params, find=email_of(params))}

    def amend_contact(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """Other particulars for a contact; its code stays."""
        contact = self.store.get(world, "contact", params["id"])
        if contact is None:
            raise refused(f"no contact {params['id']}", missing="contact")
        amended = {**contact, **params, "code": contact.get("code", "")}
        self.store.put(world, "contact", params["id"], amended, find=email_of(amended))
        return {"id": params["id"]}

    def search_articles(self, world: str, params: dict[str, Any]) -> list[dict[str, Any]]:
        """Articles with that code, else with that barcode."""
        by_code = self.store.search(world, "article", params["code"])
        barcode = params.get("barcode", "")
        if by_code or not barcode:
            return by_code
        return [article for article in self.store.all(world, "article") if article.get("barcode") == barcode]

    def create_article(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """A new article; its code is taken once."""
        if self.store.search(world, "article", params["code"]):
            raise refused(f"there is an article {params['code']} already", field="code")
        return {"id": self.store.add(world, "article", params, find=params["code"])}


def email_of(contact: dict[str, Any]) -> str:
    """The e-mail as contacts are searched by it."""
    return str(contact.get("email", "")).strip().lower()


def _plain(text: Any) -> str:
    return "".join(letter for letter in str(text or "") if letter.isalnum()).upper()


def _postcodes(contact: dict[str, Any]) -> set[str]:
    addresses = (contact.get("billing"), contact.get("delivery"))
    return {_plain(address.get("postcode")) for address in addresses if address}
