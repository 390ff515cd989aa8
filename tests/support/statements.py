"""Bank statements by ISO 20022 as banks write them, for tests."""

from __future__ import annotations

from collections.abc import Sequence
from xml.sax.saxutils import escape

IBAN = "GB33BUKB20201555555555"
_ROOTS = {"053": ("BkToCstmrStmt", "Stmt"), "054": ("BkToCstmrDbtCdtNtfctn", "Ntfctn")}


def camt_entry(
    booked: str, amount: str, *, reference: str = "", text: str = "", name: str = "", end_to_end: str = "NOTPROVIDED",
    currency: str = "GBP", state: str = "BOOK", version: str = "02",
) -> str:  # fmt: skip
    """One entry; below zero it goes out."""
    side = "DBIT" if amount.startswith("-") else "CRDT"
    deep = int(version) >= 8
    party = f"<Pty><Nm>{escape(name)}</Nm></Pty>" if deep else f"<Nm>{escape(name)}</Nm>"
    named = f"<RltdPties><Dbtr>{party}</Dbtr></RltdPties>" if name else ""
    refs = f"<AcctSvcrRef>{escape(reference)}</AcctSvcrRef>" if reference else ""
    remitted = f"<RmtInf><Ustrd>{escape(text)}</Ustrd></RmtInf>" if text else ""
    status = f"<Cd>{state}</Cd>" if deep else state
    return (f'<Ntry><Amt Ccy="{currency}">{amount.removeprefix("-")}</Amt><CdtDbtInd>{side}</CdtDbtInd>'
            f"<Sts>{status}</Sts><BookgDt><Dt>{booked}</Dt></BookgDt><ValDt><Dt>{booked}</Dt></ValDt>{refs}"
            f"<NtryDtls><TxDtls><Refs><EndToEndId>{escape(end_to_end)}</EndToEndId></Refs>{named}{remitted}"
            "</TxDtls></NtryDtls></Ntry>")  # fmt: skip


def camt(
    entries: Sequence[str], *, opening: str = "100.00", closing: str = "100.00", number: str = "10",
    first: str = "2026-10-01", last: str = "2026-10-31", account: str = IBAN, currency: str = "GBP",
    message: str = "053", version: str = "02",
) -> str:  # fmt: skip
    """A file with one statement (of ``message`` 054, with notifications)."""
    root, part = _ROOTS[message]
    balances = "".join(
        f'<Bal><Tp><CdOrPrtry><Cd>{code}</Cd></CdOrPrtry></Tp><Amt Ccy="{currency}">{amount.removeprefix("-")}</Amt>'
        f"<CdtDbtInd>{'DBIT' if amount.startswith('-') else 'CRDT'}</CdtDbtInd><Dt><Dt>{day}</Dt></Dt></Bal>"
        for code, amount, day in (("OPBD", opening, first), ("CLBD", closing, last))
    ) if message == "053" else ""  # fmt: skip
    return (f'<?xml version="1.0" encoding="UTF-8"?><Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.{message}.001.'
            f'{version}"><{root}><GrpHdr><MsgId>M1</MsgId></GrpHdr><{part}><Id>S{number}</Id>'
            f"<ElctrncSeqNb>{number}</ElctrncSeqNb><FrToDt><FrDtTm>{first}T00:00:00</FrDtTm>"
            f"<ToDtTm>{last}T23:59:59</ToDtTm></FrToDt><Acct><Id><IBAN>{account}</IBAN></Id><Ccy>{currency}</Ccy></Acct>"
            f"{balances}{''.join(entries)}</{part}></{root}></Document>")  # fmt: skip
