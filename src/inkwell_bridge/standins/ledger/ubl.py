"""What the ledger looks for in UBL 2.1, and the numbers it puts there."""

from __future__ import annotations

from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from lxml import etree

from inkwell_bridge.standins.doors import Turned

_OASIS = "urn:oasis:names:specification:ubl:schema:xsd:"
NAMES = {"cbc": f"{_OASIS}CommonBasicComponents-2", "cac": f"{_OASIS}CommonAggregateComponents-2"}
UNNUMBERED = "draft"
DIGITS = {"JPY": 0, "KWD": 3}
_PARSER = etree.XMLParser(resolve_entities=False, no_network=True)


def read(body: bytes) -> etree._Element:
    """The document of a call."""
    try:
        return etree.fromstring(body, _PARSER)
    except etree.XMLSyntaxError as wrong:
        raise Turned(400, f"no XML: {wrong}") from wrong


def said(root: etree._Element, path: str, default: str | None = None) -> str:
    """The text at a path; what must be there and is not is turned away by its name."""
    found = root.findtext(path, default, NAMES)
    if found is None:
        raise Turned(422, f"UBL without {path}")
    return found


def particulars(root: etree._Element, kind: str) -> dict[str, Any]:
    """What the ledger keeps of a document to find it by, after checking that it adds up."""
    expected = "Invoice" if kind == "invoices" else "CreditNote"
    if etree.QName(root).localname != expected:
        raise Turned(422, f"expected a UBL {expected}, got {etree.QName(root).localname}")
    lines = root.findall(f"cac:{expected}Line", NAMES)
    if not lines:
        raise Turned(422, f"a {expected} without lines")
    _adds_up(root, lines)
    return {
        "reference": _mark(root),
        "order": said(root, "cac:OrderReference/cbc:ID", ""),
        "day": said(root, "cbc:IssueDate"),
        "contact": int(said(root, "cac:AccountingCustomerParty/cac:Party/cac:PartyIdentification/cbc:ID")),
        "currency": said(root, "cbc:DocumentCurrencyCode"),
        "net": said(root, "cac:LegalMonetaryTotal/cbc:TaxExclusiveAmount"),
        "tax": said(root, "cac:TaxTotal/cbc:TaxAmount"),
        "gross": said(root, "cac:LegalMonetaryTotal/cbc:PayableAmount"),
        "accounts": sorted({said(line, "cbc:AccountingCost") for line in lines}),
        "taxes": sorted({said(line, "cac:Item/cac:ClassifiedTaxCategory/cbc:Name") for line in lines}),
        "dimensions": sorted({
            (said(part, "cbc:Name"), said(part, "cbc:Value"))
            for line in lines for part in line.findall("cac:Item/cac:AdditionalItemProperty", NAMES)
        }),
    }  # fmt: skip


def _mark(root: etree._Element) -> str:
    for reference in root.findall("cac:AdditionalDocumentReference", NAMES):
        if said(reference, "cbc:DocumentType", "") == "mark":
            return said(reference, "cbc:ID")
    return ""


def _adds_up(root: etree._Element, lines: list[etree._Element]) -> None:
    """Lines make the net, the taxes as given make the tax, both make the total: rounded once, by document."""
    step = Decimal(1).scaleb(-DIGITS.get(said(root, "cbc:DocumentCurrencyCode"), 2))
    net = sum((Decimal(said(line, "cbc:LineExtensionAmount")) for line in lines), Decimal(0))
    tax = sum(
        (Decimal(said(part, "cbc:TaxAmount")) for part in root.findall("cac:TaxTotal/cac:TaxSubtotal", NAMES)),
        Decimal(0),
    )
    for path, amount in (
        ("cac:LegalMonetaryTotal/cbc:LineExtensionAmount", net),
        ("cac:TaxTotal/cbc:TaxAmount", tax),
        ("cac:LegalMonetaryTotal/cbc:PayableAmount", net + tax),
    ):
        if Decimal(said(root, path)) != amount.quantize(step, ROUND_HALF_UP):
            raise Turned(422, f"{path} says {said(root, path)}, its parts come to {amount}")


def with_base(body: bytes, own: str, rates: dict[str, str]) -> bytes:
    """A document in another currency with what the ledger makes of it in its own: the tax (EN 16931, BT-111), and what
    is to be paid; at the document's rate, or else by the ledger's table."""
    root = read(body)
    currency = said(root, "cbc:DocumentCurrencyCode")
    if currency == own:
        return body
    rate = Decimal(said(root, "cac:TaxExchangeRate/cbc:CalculationRate", "") or rates.get(currency, "1"))
    step = Decimal(1).scaleb(-DIGITS.get(own, 2))
    totals, tax = root.find("cac:LegalMonetaryTotal", NAMES), root.find("cac:TaxTotal", NAMES)
    if totals is None or tax is None:
        raise Turned(422, "UBL without totals")
    gross = Decimal(said(root, "cac:LegalMonetaryTotal/cbc:PayableAmount")) * rate
    own_tax = Decimal(said(root, "cac:TaxTotal/cbc:TaxAmount")) * rate
    further = etree.Element(f"{{{NAMES['cac']}}}TaxTotal")
    for parent, name, amount in ((further, "TaxAmount", own_tax), (totals, "PayableAlternativeAmount", gross)):
        made = etree.SubElement(parent, f"{{{NAMES['cbc']}}}{name}", {"currencyID": own})
        made.text = str(amount.quantize(step, ROUND_HALF_UP))
    tax.addnext(further)
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")


def wanted_number(root: etree._Element) -> str:
    """The number that a document asks to be released under; nothing where it leaves that to the ledger."""
    number = said(root, "cbc:ID")
    return "" if number == UNNUMBERED else number


def numbered(body: bytes, number: str) -> bytes:
    """The document with its number in place."""
    root = read(body)
    found = root.find("cbc:ID", NAMES)
    assert found is not None
    found.text = number
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")
