"""Invoices and credit notes as UBL 2.1 (OASIS); tax categories by UNCL 5305, units by UN/ECE Rec 20.

The order of elements is that of the schema. Our own references stand where UBL has a place for references:
the document's as an additional document reference, a line's as its order line reference.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from lxml import etree

from inkwell_bridge.core.books import CreditNote, Dimension, DocumentLine, Invoice, LineKind, Role
from inkwell_bridge.ends.ledger.ubl_names import aggregate, all_at, basic, optional, root, text_at

Ubl = Invoice | CreditNote
MARK, LINK = "mark", "link"
INVOICE_TYPE, CREDIT_NOTE_TYPE = "380", "381"
UNNUMBERED = "draft"


@dataclass(frozen=True, slots=True, kw_only=True)
class Category:
    """How a tax code of the ledger is said in UBL: its category by UNCL 5305, and its rate."""

    id: str
    rate_percent: Decimal


def to_ubl(document: Ubl, *, company: str, contact_id: str, categories: Mapping[str, Category]) -> bytes:
    """A document as UBL."""
    writer = _Writer(document.currency, categories)
    build = writer.invoice if isinstance(document, Invoice) else writer.credit_note
    written = build(document, company, contact_id)  # type: ignore[arg-type]
    return etree.tostring(written, xml_declaration=True, encoding="UTF-8")


class _Writer:
    """Writes one document in one currency."""

    def __init__(self, currency: str, categories: Mapping[str, Category]) -> None:
        self._currency = currency
        self._categories = categories

    def invoice(self, document: Invoice, company: str, contact_id: str) -> etree._Element:
        return root(
            "Invoice",
            basic("UBLVersionID", "2.1"),
            basic("ID", document.number or UNNUMBERED),
            basic("IssueDate", document.date.isoformat()),
            *optional("DueDate", document.due_on.isoformat() if document.due_on else ""),
            basic("InvoiceTypeCode", INVOICE_TYPE),
            *optional("Note", document.text),
            *optional("TaxPointDate", document.tax_point.isoformat() if document.tax_point else ""),
            *self._currencies(document),
            aggregate("OrderReference", basic("ID", document.order_number),
                      *optional("SalesOrderID", document.sales_order)),
            *_references(document),
            *_parties(company, contact_id),
            *([aggregate("PaymentTerms", basic("Note", document.terms))] if document.terms else []),
            *self._rate(document),
            *self._totals(document),
            *(self._line("Invoice", "InvoicedQuantity", number, line)
              for number, line in enumerate(document.lines, start=1)),
        )  # fmt: skip

    def credit_note(self, document: CreditNote, company: str, contact_id: str) -> etree._Element:
        return root(
            "CreditNote",
            basic("UBLVersionID", "2.1"),
            basic("ID", document.number or UNNUMBERED),
            basic("IssueDate", document.date.isoformat()),
            basic("CreditNoteTypeCode", CREDIT_NOTE_TYPE),
            *optional("Note", document.text),
            *self._currencies(document),
            *([aggregate("DiscrepancyResponse", basic("Description", document.reason))] if document.reason else []),
            aggregate("OrderReference", basic("ID", document.order_number)),
            *([aggregate("BillingReference", aggregate("InvoiceDocumentReference", basic("ID", document.credits)))]
              if document.credits else []),
            *_references(document),
            *_parties(company, contact_id),
            *self._rate(document),
            *self._totals(document),
            *(self._line("CreditNote", "CreditedQuantity", number, line)
              for number, line in enumerate(document.lines, start=1)),
        )  # fmt: skip

    def _currencies(self, document: Ubl) -> list[etree._Element]:
        """The document's currency, and the one that its tax is accounted in (EN 16931, BT-5 and BT-6)."""
        return [basic("DocumentCurrencyCode", self._currency), *optional("TaxCurrencyCode", document.base_currency)]

    def _rate(self, document: Ubl) -> list[etree._Element]:
        if document.rate is None:
            return []
        return [
            aggregate(
                "TaxExchangeRate",
                basic("SourceCurrencyCode", self._currency),
                basic("TargetCurrencyCode", document.base_currency),
                *optional("ExchangeMarketID", document.rate_from),
                basic("CalculationRate", f"{document.rate:f}"),
                basic("MathematicOperatorCode", "Multiply"),
            )
        ]

    def _amount(self, name: str, amount: Decimal) -> etree._Element:
        return basic(name, f"{amount:f}", currencyID=self._currency)

    def _totals(self, document: Ubl) -> list[etree._Element]:
        by_code: dict[str, list[DocumentLine]] = defaultdict(list)
        for line in document.lines:
            by_code[line.tax_code].append(line)
        return [
            aggregate(
                "TaxTotal",
                self._amount("TaxAmount", document.tax),
                *(self._subtotal(code, lines) for code, lines in by_code.items()),
            ),
            aggregate(
                "LegalMonetaryTotal",
                self._amount("LineExtensionAmount", document.net),
                self._amount("TaxExclusiveAmount", document.net),
                self._amount("TaxInclusiveAmount", document.gross),
                self._amount("PayableAmount", document.gross),
            ),
        ]

    def _subtotal(self, code: str, lines: Sequence[DocumentLine]) -> etree._Element:
        return aggregate(
            "TaxSubtotal",
            self._amount("TaxableAmount", sum((line.net for line in lines), Decimal(0))),
            self._amount("TaxAmount", sum((line.tax for line in lines), Decimal(0))),
            self._category("TaxCategory", code),
        )

    def _category(self, name: str, code: str) -> etree._Element:
        category = self._categories[code]
        return aggregate(
            name,
            basic("ID", category.id),
            basic("Name", code),
            basic("Percent", f"{category.rate_percent:f}"),
            aggregate("TaxScheme", basic("ID", "VAT")),
        )

    def _line(self, name: str, quantity: str, number: int, line: DocumentLine) -> etree._Element:
        return aggregate(
            f"{name}Line",
            basic("ID", str(number)),
            basic("Note", line.kind.value),
            basic(quantity, f"{line.quantity:f}", unitCode=line.unit),
            self._amount("LineExtensionAmount", line.net),
            basic("AccountingCost", line.account),
            aggregate("OrderLineReference", basic("LineID", line.line_reference),
                      aggregate("OrderReference", basic("ID", line.order_number)) if line.order_number else None),
            _page(line.order_number, line.link, "DocumentReference") if line.link else None,
            aggregate("TaxTotal", self._amount("TaxAmount", line.tax)),
            self._item(line),
            aggregate("Price", self._amount("PriceAmount", line.unit_price)),
        )  # fmt: skip

    def _item(self, line: DocumentLine) -> etree._Element:
        return aggregate(
            "Item",
            basic("Name", line.text),
            aggregate("SellersItemIdentification", basic("ID", line.item)) if line.item else None,
            self._category("ClassifiedTaxCategory", line.tax_code),
            *(_property(dimension) for dimension in line.dimensions),
        )


def _property(dimension: Dimension) -> etree._Element:
    return aggregate("AdditionalItemProperty", basic("Name", dimension.name), basic("Value", dimension.value))


def _references(document: Ubl) -> list[etree._Element]:
    mark = aggregate(
        "AdditionalDocumentReference", basic("ID", document.external_reference), basic("DocumentType", MARK)
    )
    if not document.link:
        return [mark]
    return [mark, _page(document.order_number, document.link, "AdditionalDocumentReference")]


def _page(number: str, link: str, name: str) -> etree._Element:
    """Where an order can be seen."""
    address = aggregate("Attachment", aggregate("ExternalReference", basic("URI", link)))
    return aggregate(name, basic("ID", number), basic("DocumentType", LINK), address)


def _parties(company: str, contact_id: str) -> list[etree._Element]:
    """Seller by name, buyer by the ledger's own id: who that is stands on the contact, not here."""
    seller = aggregate("Party", aggregate("PartyName", basic("Name", company)))
    buyer = aggregate("Party", aggregate("PartyIdentification", basic("ID", contact_id)))
    return [aggregate("AccountingSupplierParty", seller), aggregate("AccountingCustomerParty", buyer)]


def from_ubl(document: etree._Element) -> dict[str, Any]:
    """A document read from UBL, as the fields of a held document.

    Raises:
        Unreadable: for UBL that lacks what a document needs.
    """
    is_invoice = etree.QName(document).localname == "Invoice"
    own = _invoice_fields(document) if is_invoice else _credit_note_fields(document)
    number = text_at(document, "cbc:ID")
    totals = "cac:LegalMonetaryTotal/cbc:"
    return {
        "number": "" if number == UNNUMBERED else number,
        "contact_id": text_at(document, "cac:AccountingCustomerParty/cac:Party/cac:PartyIdentification/cbc:ID"),
        "net": text_at(document, f"{totals}TaxExclusiveAmount"),
        "tax": text_at(document, "cac:TaxTotal/cbc:TaxAmount"),
        "gross": text_at(document, f"{totals}TaxInclusiveAmount"),
        "base": _base(document),
        "document": {
            "external_reference": _reference(document, MARK, "cbc:ID"),
            "date": text_at(document, "cbc:IssueDate"),
            "order_number": text_at(document, "cac:OrderReference/cbc:ID", ""),
            "link": _reference(document, LINK, _ADDRESS),
            "text": text_at(document, "cbc:Note", ""),
            "currency": text_at(document, "cbc:DocumentCurrencyCode"),
            "lines": [_line_fields(line) for name in ("Invoice", "CreditNote")
                      for line in all_at(document, f"cac:{name}Line")],
            "rate": text_at(document, "cac:TaxExchangeRate/cbc:CalculationRate", "") or None,
            "rate_from": text_at(document, "cac:TaxExchangeRate/cbc:ExchangeMarketID", ""),
            "base_currency": text_at(document, "cbc:TaxCurrencyCode", ""),
            **own,
        },
    }  # fmt: skip


def _base(document: etree._Element) -> dict[str, Any] | None:
    """What the ledger makes of a document in its own currency: its tax (EN 16931, BT-111) and what is to be paid."""
    gross = next(all_at(document, "cac:LegalMonetaryTotal/cbc:PayableAlternativeAmount"), None)
    if gross is None or gross.text is None:
        return None
    own = gross.get("currencyID", "")
    taxes = (one for one in all_at(document, "cac:TaxTotal/cbc:TaxAmount") if one.get("currencyID") == own)
    tax = Decimal(next((one.text or "0" for one in taxes), "0"))
    return {"currency": own, "net": Decimal(gross.text) - tax, "tax": tax, "gross": gross.text}


_ADDRESS = "cac:Attachment/cac:ExternalReference/cbc:URI"


def _invoice_fields(document: etree._Element) -> dict[str, Any]:
    return {
        "role": Role.INVOICE.value,
        "due_on": text_at(document, "cbc:DueDate", "") or None,
        "tax_point": text_at(document, "cbc:TaxPointDate", "") or None,
        "terms": text_at(document, "cac:PaymentTerms/cbc:Note", ""),
        "sales_order": text_at(document, "cac:OrderReference/cbc:SalesOrderID", ""),
    }


def _credit_note_fields(document: etree._Element) -> dict[str, Any]:
    return {
        "role": Role.CREDIT_NOTE.value,
        "credits": text_at(document, "cac:BillingReference/cac:InvoiceDocumentReference/cbc:ID", ""),
        "reason": text_at(document, "cac:DiscrepancyResponse/cbc:Description", ""),
    }


def _reference(document: etree._Element, kind: str, path: str) -> str:
    for reference in all_at(document, "cac:AdditionalDocumentReference"):
        if text_at(reference, "cbc:DocumentType", "") == kind:
            return text_at(reference, path)
    return ""


def _line_fields(line: etree._Element) -> dict[str, Any]:
    kind = text_at(line, "cbc:Note", "")
    quantity = next(found for name in ("Invoiced", "Credited") for found in all_at(line, f"cbc:{name}Quantity"))
    return {
        # What somebody typed says nothing of its kind, or something of its own.
        "kind": kind if kind in set(LineKind) else LineKind.GOODS,
        "line_reference": text_at(line, "cac:OrderLineReference/cbc:LineID", "added in the books"),
        "text": text_at(line, "cac:Item/cbc:Name"),
        "account": text_at(line, "cbc:AccountingCost"),
        "item": text_at(line, "cac:Item/cac:SellersItemIdentification/cbc:ID", ""),
        "quantity": quantity.text,
        "unit": quantity.get("unitCode", "C62"),
        "unit_price": text_at(line, "cac:Price/cbc:PriceAmount"),
        "net": text_at(line, "cbc:LineExtensionAmount"),
        "tax": text_at(line, "cac:TaxTotal/cbc:TaxAmount"),
        "tax_code": text_at(line, "cac:Item/cac:ClassifiedTaxCategory/cbc:Name"),
        "order_number": text_at(line, "cac:OrderLineReference/cac:OrderReference/cbc:ID", ""),
        "link": text_at(line, f"cac:DocumentReference/{_ADDRESS}", ""),
        "dimensions": [
            {"name": text_at(part, "cbc:Name"), "value": text_at(part, "cbc:Value")}
            for part in all_at(line, "cac:Item/cac:AdditionalItemProperty")
        ],
    }
