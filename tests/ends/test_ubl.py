"""The ledger's UBL 2.1: the order of elements as the schema has it, codes of the standards, sums that agree."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest
from lxml import etree

from inkwell_bridge.core.books import CreditNote, Invoice, Role
from inkwell_bridge.ends.ledger.ubl import Category, from_ubl, to_ubl
from inkwell_bridge.ends.reading import Unreadable, read_xml
from tests.support.ends import BENCHES, document, line

LEDGER = BENCHES["ledger"]
CATEGORIES = {"V23": Category(id="S", rate_percent=Decimal(23)), "V0": Category(id="Z", rate_percent=Decimal(0)),
              "NONE": Category(id="O", rate_percent=Decimal(0))}  # fmt: skip
CBC = "{urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2}"
# The sequences of UBL-Invoice-2.1.xsd, UBL-CreditNote-2.1.xsd and UBL-CommonAggregateComponents-2.1.xsd, as far as
# elements are used here.
SEQUENCES = {
    "Invoice": "UBLVersionID ID IssueDate DueDate InvoiceTypeCode Note TaxPointDate DocumentCurrencyCode "
    "OrderReference AdditionalDocumentReference AccountingSupplierParty AccountingCustomerParty PaymentTerms TaxTotal "
    "LegalMonetaryTotal InvoiceLine",
    "CreditNote": "UBLVersionID ID IssueDate CreditNoteTypeCode Note DocumentCurrencyCode DiscrepancyResponse "
    "OrderReference BillingReference AdditionalDocumentReference AccountingSupplierParty AccountingCustomerParty "
    "TaxTotal LegalMonetaryTotal CreditNoteLine",
    "InvoiceLine": "ID Note InvoicedQuantity LineExtensionAmount AccountingCost OrderLineReference DocumentReference "
    "TaxTotal Item Price",
    "CreditNoteLine": "ID Note CreditedQuantity LineExtensionAmount AccountingCost OrderLineReference "
    "DocumentReference TaxTotal Item Price",
    "OrderLineReference": "LineID OrderReference",
    "DocumentReference": "ID DocumentType Attachment",
    "Item": "Name SellersItemIdentification ClassifiedTaxCategory AdditionalItemProperty",
    "TaxCategory": "ID Name Percent TaxScheme",
    "ClassifiedTaxCategory": "ID Name Percent TaxScheme",
    "TaxTotal": "TaxAmount TaxSubtotal",
    "TaxSubtotal": "TaxableAmount TaxAmount TaxCategory",
    "LegalMonetaryTotal": "LineExtensionAmount TaxExclusiveAmount TaxInclusiveAmount PayableAmount",
    "OrderReference": "ID SalesOrderID",
    "AdditionalDocumentReference": "ID DocumentType Attachment",
}
LINES = [
    line(LEDGER, item="YRN", dimensions=[{"name": "region", "value": "IE"}]),
    line(LEDGER, line_reference="2", tax_code="V0", tax="0.00"),
    line(
        LEDGER,
        line_reference="3",
        kind="rounding",
        quantity="1",
        unit_price="-0.01",
        net="-0.01",
        tax_code="NONE",
        tax="0.00",
    ),
]


def full(role: Role) -> Invoice | CreditNote:
    """A document with everything UBL is used for."""
    own = {
        Role.INVOICE: {"due_on": "2026-11-01", "tax_point": "2026-10-04", "terms": "NET14", "sales_order": "SO-1"},
        Role.CREDIT_NOTE: {"credits": "INK:web-shop:501:invoice:1", "reason": "wrong colour"},
    }
    made = document(LEDGER, role, text="With thanks", lines=LINES, **own[role])
    assert isinstance(made, Invoice | CreditNote)
    return made


def written(role: Role) -> etree._Element:
    """The same as UBL."""
    return read_xml(to_ubl(full(role), company="Marrowby Ireland DAC", contact_id="7", categories=CATEGORIES))


@pytest.mark.parametrize("role", [Role.INVOICE, Role.CREDIT_NOTE])
def test_elements_stand_in_the_order_of_the_schema(role: Role) -> None:
    """All through the document."""
    checked = set()
    for element in written(role).iter():
        name = etree.QName(element).localname
        if name in SEQUENCES:
            sequence = SEQUENCES[name].split()
            places = [sequence.index(etree.QName(child).localname) for child in element]
            assert places == sorted(places), name
            checked.add(name)
    assert len(checked) > 8


def test_amounts_carry_their_currency_and_quantities_their_unit() -> None:
    """ISO 4217 and UN/ECE Rec 20."""
    for element in written(Role.INVOICE).iter(f"{CBC}*"):
        name = etree.QName(element).localname
        if name.endswith("Amount"):
            assert element.get("currencyID") == "EUR", name
        if name.endswith("Quantity"):
            assert element.get("unitCode") == "C62"


def test_taxes_are_summed_by_code_and_make_the_total() -> None:
    """Categories by UNCL 5305: standard, zero, outside."""
    root = written(Role.INVOICE)
    subtotals = root.findall(".//{*}TaxSubtotal")
    found = [(one.findtext("{*}TaxCategory/{*}ID"), one.findtext("{*}TaxableAmount"), one.findtext("{*}TaxAmount"))
             for one in subtotals]  # fmt: skip
    assert found == [("S", "10.00", "2.30"), ("Z", "10.00", "0.00"), ("O", "-0.01", "0.00")]
    assert root.findtext("{*}LegalMonetaryTotal/{*}PayableAmount") == "22.29"


def without_further_fields(document: Any) -> Any:
    """What UBL has a place for: the ledger keeps no fields but its own."""
    lines = tuple(line.model_copy(update={"fields": ()}) for line in document.lines)
    return document.model_copy(update={"fields": (), "lines": lines})


@pytest.mark.parametrize("role", [Role.INVOICE, Role.CREDIT_NOTE])
def test_it_reads_back_whole(role: Role) -> None:
    """Every field, the contact and the totals."""
    read = from_ubl(written(role))
    assert role.shape.read(read["document"]) == without_further_fields(full(role))
    assert (read["contact_id"], read["number"], read["gross"]) == ("7", "", "22.29")


def test_ubl_that_lacks_what_it_needs_is_unreadable() -> None:
    """Named by its path."""
    root = written(Role.INVOICE)
    root.remove(root.findall("{*}LegalMonetaryTotal")[0])
    with pytest.raises(Unreadable, match="UBL without cac:LegalMonetaryTotal"):
        from_ubl(root)


@pytest.mark.parametrize("xml", [
    b'<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>',
    b'<!DOCTYPE a [<!ENTITY b SYSTEM "file:///etc/passwd">]><a>&b;</a>',
    b'<!DOCTYPE a SYSTEM "http://elsewhere.example/a.dtd"><a/>',
    b"<a><b></a>",
    b"",
    b"\xff\xfe\x00",
    b"<a>" * 100_000,
])  # fmt: skip
def test_hostile_xml_is_not_read(xml: bytes) -> None:
    """No document type, so no entity; nothing unclosed or too deep."""
    with pytest.raises(Unreadable):
        read_xml(xml)


def test_characters_that_xml_has_no_place_for_become_spaces() -> None:
    """A title from elsewhere must not keep an invoice from being made."""
    made = document(LEDGER, Role.INVOICE, lines=[line(LEDGER, text="Wool\x0b\x00cone")])
    assert isinstance(made, Invoice)
    root = read_xml(to_ubl(made, company="M", contact_id="7", categories=CATEGORIES))
    assert root.findtext(".//{*}Item/{*}Name") == "Wool  cone"
