"""Calls in one workspace."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from typing import Any

from inkwell_bridge.client import models
from inkwell_bridge.client.bank import BankAccountCalls
from inkwell_bridge.client.bridge import BridgeCalls
from inkwell_bridge.client.clearing import ClearingCalls
from inkwell_bridge.client.completeness import CompletenessCalls
from inkwell_bridge.client.connection import ConnectionCalls
from inkwell_bridge.client.exchange_rates import ExchangeRateCalls
from inkwell_bridge.client.months import MonthCalls
from inkwell_bridge.client.requests import RequestCalls
from inkwell_bridge.client.sheet import SheetCalls
from inkwell_bridge.client.transport import Transport


class WorkspaceCalls:
    """Calls in one workspace."""

    def __init__(self, transport: Transport, slug: str) -> None:
        self._transport, self._path = transport, f"/workspaces/{slug}"

    def read(self) -> models.Entry:
        """Its name, and one's role in it."""
        return self._transport.one(models.Entry, "GET", self._path)

    def companies(self) -> Iterator[models.Company]:
        """The client's companies."""
        return self._transport.pages(models.Company, f"{self._path}/companies")

    def create_company(self, **fields: Any) -> models.Company:
        """A new company: slug, name, country, currency, time_zone."""
        return self._transport.one(models.Company, "POST", f"{self._path}/companies", body=fields)

    def change_company(self, slug: str, **fields: Any) -> models.Company:
        """Change its name, the language of its reports, or whether two people close its months."""
        return self._transport.one(models.Company, "PATCH", f"{self._path}/companies/{slug}", body=fields)

    def exchange_rates(self, company: str) -> ExchangeRateCalls:
        """Calls about the daily rates of a company."""
        return ExchangeRateCalls(self._transport, f"{self._path}/companies/{company}/exchange-rates")

    def bank_accounts(self) -> Iterator[models.BankAccount]:
        """The bank accounts."""
        return self._transport.pages(models.BankAccount, f"{self._path}/bank-accounts")

    def create_bank_account(self, **fields: Any) -> models.BankAccount:
        """A new bank account: slug, name, books, ledger_account, number, currency and, for its tables, layout."""
        return self._transport.one(models.BankAccount, "POST", f"{self._path}/bank-accounts", body=fields)

    def bank_account(self, slug: str) -> BankAccountCalls:
        """Calls about one bank account."""
        return BankAccountCalls(self._transport, f"{self._path}/bank-accounts/{slug}")

    @property
    def clearing(self) -> ClearingCalls:
        """Calls about accounts of money, and whether the books have on them what was posted from here."""
        return ClearingCalls(self._transport, f"{self._path}/clearing")

    @property
    def completeness(self) -> CompletenessCalls:
        """Calls about whether everything of some days was read."""
        return CompletenessCalls(self._transport, f"{self._path}/completeness")

    @property
    def requests(self) -> RequestCalls:
        """Calls about requests for payment."""
        return RequestCalls(self._transport, f"{self._path}/requests")

    def people(self) -> Iterator[models.Member]:
        """Who may do what."""
        return self._transport.pages(models.Member, f"{self._path}/people")

    @property
    def address(self) -> str:
        """Where the service is."""
        return self._transport.address

    def invite(self, *, email: str, role: str, name: str = "") -> models.Invited:
        """Invite somebody; the answer has the link to hand on, unless it was mailed."""
        body = {"email": email, "role": role, "name": name}
        return self._transport.one(models.Invited, "POST", f"{self._path}/people/invitations", body=body)

    def invitations(self) -> Iterator[models.Invitation]:
        """Who was invited and has not come yet."""
        return self._transport.pages(models.Invitation, f"{self._path}/people/invitations")

    def withdraw_invitation(self, number: int) -> None:
        """Withdraw an invitation; its link opens nothing any more."""
        self._transport.send("DELETE", f"{self._path}/people/invitations/{number}")

    def give_role(self, *, email: str, role: str) -> models.Member:
        """Give somebody who has a role here another one; anybody else is invited."""
        return self._transport.one(models.Member, "POST", f"{self._path}/people", body={"email": email, "role": role})

    def remove_person(self, number: int) -> None:
        """Take a person's role here away, by the number of it in the list of people."""
        self._transport.send("DELETE", f"{self._path}/people/{number}")

    def erase_buyer(self, email: str) -> models.Erasure:
        """Erase all that tells of the buyer with that e-mail; it goes on in the background."""
        return self._transport.one(models.Erasure, "POST", f"{self._path}/erasures", body={"email": email})

    def erasure(self, number: int) -> models.Erasure:
        """How far an erasure is."""
        return self._transport.one(models.Erasure, "GET", f"{self._path}/erasures/{number}")

    def trail(self) -> Iterator[models.TrailEntry]:
        """What was done here, newest first."""
        return self._transport.pages(models.TrailEntry, f"{self._path}/trail")

    def connections(self, **filters: Any) -> Iterator[models.Connection]:
        """All ends; filters: side, kind, state."""
        return self._transport.pages(models.Connection, f"{self._path}/connections", filters)

    def create_connection(self, *, credentials: Mapping[str, str], **fields: Any) -> models.Connection:
        """A new end (slug, name, kind, address, company); answers once it was checked."""
        body = {**fields, "credentials": dict(credentials)}
        made = self._transport.one(models.Connection, "POST", f"{self._path}/connections", body=body)
        return self.connection(made.slug).checked(made)

    def connection(self, slug: str) -> ConnectionCalls:
        """Calls about one end."""
        return ConnectionCalls(self._transport, f"{self._path}/connections/{slug}")

    def bridges(self) -> Iterator[models.Bridge]:
        """All bridges."""
        return self._transport.pages(models.Bridge, f"{self._path}/bridges")

    def create_bridge(self, **fields: Any) -> models.Bridge:
        """A new bridge: slug, name, source, books, company."""
        return self._transport.one(models.Bridge, "POST", f"{self._path}/bridges", body=fields)

    def bridge(self, slug: str) -> BridgeCalls:
        """Calls about one bridge."""
        return BridgeCalls(self._transport, f"{self._path}/bridges/{slug}")

    def base_rulebooks(self) -> Iterator[models.BaseHead]:
        """What the rulebooks here build on."""
        return self._transport.pages(models.BaseHead, f"{self._path}/base-rulebooks")

    def base_rulebook(self, name: str) -> models.BaseRulebook:
        """The newest version of one, with the bridges that build on it."""
        return self._transport.one(models.BaseRulebook, "GET", f"{self._path}/base-rulebooks/{name}")

    def write_base_rulebook(self, name: str, text: str, *, redraft: bool = False) -> models.BaseRulebook:
        """Write a version; with ``redraft`` the bridges that build on it get a new draft each."""
        body = {"name": name, "text": text, "redraft": redraft}
        return self._transport.one(models.BaseRulebook, "POST", f"{self._path}/base-rulebooks", body=body)

    def edit_base_rulebook(
        self, name: str, text: str, operations: Sequence[Mapping[str, Any]] = ()
    ) -> models.EditedBase:  # fmt: skip
        """A text of base rules after these operations of a JSON Patch (RFC 6902), and what is wrong with it; nothing is
        kept."""
        body = {"text": text, "operations": [dict(one) for one in operations]}
        return self._transport.one(models.EditedBase, "POST", f"{self._path}/base-rulebooks/{name}/edit", body=body)

    def runs(self, *, bridge: str | None = None, state: str | None = None) -> Iterator[models.Run]:
        """All runs, newest first."""
        return self._transport.pages(models.Run, f"{self._path}/runs", {"bridge__slug": bridge, "state": state})

    def run(self, number: int) -> models.Run:
        """One run, with its totals."""
        return self._transport.one(models.Run, "GET", f"{self._path}/runs/{number}")

    def holds(self, *, bridge: str = "", cause: str = "", kind: str = "") -> list[models.HoldGroup]:
        """What is held, by cause and by the value that is to blame; the most documents first."""
        query = {name: value for name, value in {"bridge": bridge, "cause": cause, "kind": kind}.items() if value}
        return self._transport.several(models.HoldGroup, "GET", f"{self._path}/holds", query=query)

    def preview_holds(self, *, bridge: str, cause: str, **given: Any) -> models.Freed:
        """What of a group would go: narrowed by ``kind`` and ``value``, under the rules of ``text`` or ``version``.

        ``links`` are answers of products, as if they stood.
        """
        body = {"bridge": bridge, "cause": cause, **given}
        return self._transport.one(models.Freed, "POST", f"{self._path}/holds/preview", body=body)

    def release_holds(self, *, bridge: str, cause: str, **given: Any) -> models.LetGo:
        """Try all of a group again, narrowed by ``kind`` and ``value``."""
        body = {"bridge": bridge, "cause": cause, **given}
        return self._transport.one(models.LetGo, "POST", f"{self._path}/holds/release", body=body)

    def became(self, crossings: Sequence[int]) -> models.Became:
        """Where documents that were let go are now, and why some are held again."""
        body = {"crossings": list(crossings)}
        return self._transport.one(models.Became, "POST", f"{self._path}/holds/followed", body=body)

    def decide(self, crossing: int, kind: str, note: str) -> models.Crossing:
        """Decide for one document that is held: leave out, by hand, accept difference, keep posted,
        post the difference, keep theirs, put ours back, credit and reissue; with a reason."""
        body = {"kind": kind, "note": note}
        return self._transport.one(models.Crossing, "PUT", f"{self._path}/crossings/{crossing}/decision", body=body)

    def contact_choice(self, crossing: int) -> models.ContactChoice:
        """The buyer of a held document, and the contacts that may be meant."""
        return self._transport.one(models.ContactChoice, "GET", f"{self._path}/crossings/{crossing}/contact")

    def choose_contact(self, crossing: int, contact: str) -> models.LetGo:
        """Say which contact (its id or code) a buyer is, and let go what waits for that."""
        body = {"contact": contact}
        return self._transport.one(models.LetGo, "PUT", f"{self._path}/crossings/{crossing}/contact", body=body)

    def log(self, crossing: int) -> list[models.LogEntry]:
        """What happened to a document, and every call to an end about it, in the order of time."""
        return self._transport.several(models.LogEntry, "GET", f"{self._path}/crossings/{crossing}/log")

    def log_lines(self, crossing: int) -> bytes:
        """The same as JSON Lines."""
        return self._transport.content(f"{self._path}/crossings/{crossing}/log/lines")

    def take_decision_back(self, crossing: int) -> models.Crossing:
        """Forget what was decided, and have it planned anew."""
        return self._transport.one(models.Crossing, "DELETE", f"{self._path}/crossings/{crossing}/decision")

    def troubles(self) -> models.Troubles:
        """What needs somebody now, the newest change first."""
        return self._transport.one(models.Troubles, "GET", f"{self._path}/troubles")

    def read_troubles(self) -> None:
        """Say that one has looked: all that there is now is new no more."""
        self._transport.send("POST", f"{self._path}/troubles/read")

    def past_troubles(self) -> Iterator[models.Trouble]:
        """Every trouble there was, the newest first."""
        return self._transport.pages(models.Trouble, f"{self._path}/troubles/past")

    def notice_rules(self) -> Iterator[models.NoticeRule]:
        """Who is told of what."""
        return self._transport.pages(models.NoticeRule, f"{self._path}/notice-rules")

    def notice_rule(self, number: int) -> models.NoticeRule:
        """One of them."""
        return self._transport.one(models.NoticeRule, "GET", f"{self._path}/notice-rules/{number}")

    def add_notice_rule(self, **fields: Any) -> models.MadeNoticeRule:
        """Tell somebody: by ``channel`` mail to a ``person``, or call to an ``address``, whose secret is shown once."""
        return self._transport.one(models.MadeNoticeRule, "POST", f"{self._path}/notice-rules", body=fields)

    def change_notice_rule(self, number: int, **fields: Any) -> models.NoticeRule:
        """Change what is told, how and when."""
        return self._transport.one(models.NoticeRule, "PATCH", f"{self._path}/notice-rules/{number}", body=fields)

    def remove_notice_rule(self, number: int) -> None:
        """Tell them no more."""
        self._transport.send("DELETE", f"{self._path}/notice-rules/{number}")

    def test_notice_rule(self, number: int) -> models.TestedNotice:
        """Send one message now, and hear what happened."""
        return self._transport.one(models.TestedNotice, "POST", f"{self._path}/notice-rules/{number}/test")

    def new_notice_secret(self, number: int) -> str:
        """Sign the calls of a rule with a new secret from now on; shown this once."""
        return self._transport.one(models.NoticeSecret, "POST", f"{self._path}/notice-rules/{number}/secret").secret

    def notices(self) -> Iterator[models.Notice]:
        """The messages that were sent, the newest first."""
        return self._transport.pages(models.Notice, f"{self._path}/notices")

    def run_again(self, number: int, *outcomes: str) -> models.Run:
        """Try again what came to these outcomes in a run; without any, what is held or differs."""
        body = {"outcomes": list(outcomes)} if outcomes else {}
        return self._transport.one(models.Run, "POST", f"{self._path}/runs/{number}/again", body=body)

    def stop_run(self, number: int) -> models.Run:
        """End a run that does not come to an end, so that its bridge can start another; what it read is carried."""
        return self._transport.one(models.Run, "POST", f"{self._path}/runs/{number}/stop")

    def rehearsal(self, number: int) -> models.Rehearsal:
        """How far a rehearsal is, and what it came to."""
        return self._transport.one(models.Rehearsal, "GET", f"{self._path}/rehearsals/{number}")

    def cancel_rehearsal(self, number: int) -> models.Rehearsal:
        """End it as far as it came."""
        return self._transport.one(models.Rehearsal, "POST", f"{self._path}/rehearsals/{number}/cancel")

    def proposal(self, number: int) -> models.Proposal:
        """How far a proposal of rules is, and what was learnt."""
        return self._transport.one(models.Proposal, "GET", f"{self._path}/proposals/{number}")

    def cancel_proposal(self, number: int) -> models.Proposal:
        """End it as far as it came."""
        return self._transport.one(models.Proposal, "POST", f"{self._path}/proposals/{number}/cancel")

    def examples(self, number: int) -> Iterator[bytes]:
        """The examples of a proposal without people, as JSON Lines: orders, and what the books hold for each."""
        return self._transport.chunks(f"{self._path}/proposals/{number}/examples")

    def changed_plans(self, number: int) -> Iterator[models.ChangedPlan]:
        """The documents that a rehearsal would change."""
        return self._transport.pages(models.ChangedPlan, f"{self._path}/rehearsals/{number}/changes")

    def both_plans(self, number: int, crossing: int) -> models.BothPlans:
        """One document under both versions of a rehearsal."""
        return self._transport.one(models.BothPlans, "GET", f"{self._path}/rehearsals/{number}/changes/{crossing}")

    def coverage(self, number: int, *, unmapped: bool = False) -> list[models.MetValue]:
        """What the orders of a rehearsal hold, value by value; only what no rule maps with ``unmapped``."""
        query = {"unmapped": "true"} if unmapped else None
        return self._transport.several(
            models.MetValue, "GET", f"{self._path}/rehearsals/{number}/coverage", query=query
        )

    def coverage_table(self, number: int) -> bytes:
        """The same as CSV."""
        return self._transport.content(f"{self._path}/rehearsals/{number}/coverage/table")

    def crossings(self, **filters: Any) -> Iterator[models.Crossing]:
        """All source documents and what became of them.

        Filters: bridge, state (a list), cause, run, outcome, placed_from, placed_to, differing, search, sort.
        """
        return self._transport.pages(models.Crossing, f"{self._path}/crossings", filters)

    def crossing(self, number: int) -> models.Spread:
        """One in full."""
        return self._transport.one(models.Spread, "GET", f"{self._path}/crossings/{number}")

    def take_back(self, number: int) -> models.Crossing:
        """Have the drafts of an order on trial voided at the books, in the background."""
        return self._transport.one(models.Crossing, "POST", f"{self._path}/crossings/{number}/take-back")

    def carry_for_good(self, number: int) -> models.Crossing:
        """Let an order on trial go like any other, under the rules in force."""
        return self._transport.one(models.Crossing, "POST", f"{self._path}/crossings/{number}/carry-for-good")

    def adopt(self, crossing: int, books_id: str) -> models.Crossing:
        """Let an order be a document that somebody typed into the books, whatever total it says."""
        path = f"{self._path}/crossings/{crossing}/adopt"
        return self._transport.one(models.Crossing, "POST", path, body={"books_id": books_id})

    def release(self, *, crossings: Sequence[int] = (), cause: str | None = None, bridge: str | None = None) -> int:
        """Try held documents again; answers how many."""
        given = {"crossings": list(crossings), "cause": cause, "bridge": bridge}
        body = {name: value for name, value in given.items() if value}
        return int(self._transport.send("POST", f"{self._path}/crossings/release", body=body)["released"])

    def documents(self, **filters: Any) -> Iterator[models.Document]:
        """All documents in the books; filters: bridge, connection, state (a list), order_number, books_number."""
        return self._transport.pages(models.Document, f"{self._path}/documents", filters)

    def read_again(self, *, first: date, last: date, bridge: str = "") -> int:
        """Have what was posted with a date of these days read again in the books; answers how many documents."""
        body = {"first": first.isoformat(), "last": last.isoformat(), "bridge": bridge}
        return self._transport.one(models.ReadAgain, "POST", f"{self._path}/documents/read-again", body=body).due

    def still_to_read(self) -> int:
        """How many of the documents that are to be read again have not been read yet."""
        return self._transport.one(models.ReadAgain, "GET", f"{self._path}/documents/read-again").due

    def document(self, number: int) -> models.Document:
        """One, as planned, as settled, as read back."""
        return self._transport.one(models.Document, "GET", f"{self._path}/documents/{number}")

    def sheet(
        self, *, first: date | None = None, last: date | None = None, bridge: str | None = None,
        company: str | None = None,
    ) -> SheetCalls:  # fmt: skip
        """Calls about the sheet of a period; without one, of the current month."""
        return SheetCalls(self._transport, self._path, first=first, last=last, bridge=bridge, company=company)

    def month(self, company: str, month: str) -> MonthCalls:
        """Calls about a month of a company, such as 2026-10."""
        return MonthCalls(self._transport, f"{self._path}/months/{company}/{month}")

    def closings(self, *, company: str = "") -> Iterator[models.Closing]:
        """The closings of months, newest first; those that were opened again among them."""
        return self._transport.pages(models.Closing, f"{self._path}/closings", {"company": company} if company else {})

    def closing_report(self, number: int, form: str = "pdf", language: str = "") -> bytes:
        """The report of a closing; see ``MonthCalls.report``."""
        query = {"form": form, **({"language": language} if language else {})}
        return self._transport.content(f"{self._path}/closings/{number}/report", query=query)

    def verify_closings(self, company: str) -> models.Chain:
        """Whether the closings of a company are what they were."""
        return self._transport.one(models.Chain, "GET", f"{self._path}/companies/{company}/closings/verify")

    def tie_out(
        self, *, first: date | None = None, last: date | None = None, bridge: str | None = None
    ) -> models.TieOut:
        """Both sides of a period; without one, of the current month."""
        return self.sheet(first=first, last=last, bridge=bridge).read()

    def today(self) -> models.Today:
        """What needs a person now."""
        return self._transport.one(models.Today, "GET", f"{self._path}/today")
