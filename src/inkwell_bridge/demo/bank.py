"""The bank's statement of October 2026 for the UK company's current account: ISO 20022 camt.053, as its bank writes it.

It has every payout that arrived in the month, the rent, an invoice of the office that was paid by bank, and two lines
that say little: a payout that the bank gives no name, and money that nobody knows. Weirgate's payout of the 30th
arrives in November, and is not on it.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from xml.sax.saxutils import escape

from inkwell_bridge.demo.facts import facts
from inkwell_bridge.demo.payouts import payouts

FIRST, LAST = date(2026, 10, 1), date(2026, 10, 31)
OPENING_PENCE = 500_000
# The payout that the bank gives no name.
UNNAMED = "WP-261014"
# What is no payout: the day, pence, who, and what the bank says.
APART: tuple[tuple[str, int, str, str], ...] = (
    ("2026-10-01", -65_000, "Wharfe Mill Estates", "RENT DYEHOUSE OCT"),
    ("2026-10-21", 12_000, "", "TRF 88213 CREDIT"),
    ("2026-10-29", 125_040, "Rhodri Pugh", "INV SI-09004 WITH THANKS"),
)
FILE = "current-account-2026-10.xml"
Line = tuple[str, int, str, str]


def statement() -> str:
    """The file."""
    lines = sorted(_lines())
    closing = OPENING_PENCE + sum(pence for _, pence, _, _ in lines)
    account = facts()["bank"]
    entries = "\n".join(_entry(number, line) for number, line in enumerate(lines, start=1))
    number = escape(account["number"].replace(" ", ""))
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.08">
<BkToCstmrStmt>
<GrpHdr><MsgId>ST-2026-10</MsgId><CreDtTm>2026-11-01T02:00:00Z</CreDtTm></GrpHdr>
<Stmt>
<Id>ST-2026-10</Id><ElctrncSeqNb>10</ElctrncSeqNb><CreDtTm>2026-11-01T02:00:00Z</CreDtTm>
<FrToDt><FrDtTm>{FIRST}T00:00:00</FrDtTm><ToDtTm>{LAST}T23:59:59</ToDtTm></FrToDt>
<Acct><Id><IBAN>{number}</IBAN></Id><Ccy>{account["currency"]}</Ccy></Acct>
{_balance("OPBD", OPENING_PENCE, FIRST)}
{_balance("CLBD", closing, LAST)}
{entries}
</Stmt>
</BkToCstmrStmt>
</Document>
"""


def _lines() -> Iterator[Line]:
    for one in payouts():
        if one["lands"] <= LAST.isoformat():
            said = "BULK CREDIT 0091723" if one["payout"] == UNNAMED else one["statement_text"]
            yield one["lands"], one["minor"], "" if one["payout"] == UNNAMED else "Weirgate", said
    yield from APART


def _entry(number: int, line: Line) -> str:
    day, pence, name, said = line
    party = f"<RltdPties><Dbtr><Pty><Nm>{escape(name)}</Nm></Pty></Dbtr></RltdPties>" if name else ""
    return (
        f"<Ntry>{_amount(pence)}<Sts><Cd>BOOK</Cd></Sts><BookgDt><Dt>{day}</Dt></BookgDt><ValDt><Dt>{day}</Dt></ValDt>"
        f"<AcctSvcrRef>BX2610-{number:03}</AcctSvcrRef><NtryDtls><TxDtls>"
        f"<Refs><EndToEndId>NOTPROVIDED</EndToEndId></Refs>{party}<RmtInf><Ustrd>{escape(said)}</Ustrd></RmtInf></TxDtls></NtryDtls></Ntry>"
    )


def _balance(code: str, pence: int, day: date) -> str:
    return f"<Bal><Tp><CdOrPrtry><Cd>{code}</Cd></CdOrPrtry></Tp>{_amount(pence)}<Dt><Dt>{day}</Dt></Dt></Bal>"


def _amount(pence: int) -> str:
    pounds, rest = divmod(abs(pence), 100)
    side = "DBIT" if pence < 0 else "CRDT"
    return f'<Amt Ccy="{facts()["bank"]["currency"]}">{pounds}.{rest:02}</Amt><CdtDbtInd>{side}</CdtDbtInd>'
