"""How texts are compared: what people put between and around the letters that count does not matter."""

from __future__ import annotations

import re
import unicodedata

_GTIN_DIGITS = 14
_NO_WORD = re.compile(r"[\W_]+")


def code_key(code: str) -> str:
    """A code as it is compared: case and surrounding space do not matter."""
    return code.strip().casefold()


def barcode_key(barcode: str) -> str:
    """A barcode as it is compared: as a GTIN of 14 digits (GS1), whichever length it was written in."""
    digits = "".join(barcode.split())
    return digits.zfill(_GTIN_DIGITS) if digits.isdigit() else digits.casefold()


def plain(text: str) -> str:
    """A text as it is compared: without case, accents and punctuation; words parted by single spaces."""
    letters = "".join(one for one in unicodedata.normalize("NFKD", text) if not unicodedata.combining(one))
    return _NO_WORD.sub(" ", letters.casefold()).strip()


def tax_number_key(tax_number: str) -> str:
    """A tax number without what people put between its digits."""
    return _NO_WORD.sub("", tax_number).upper()


def place_key(name: str, postcode: str) -> str:
    """Name and postcode together; nothing where one of them is missing."""
    known, there = plain(name), _NO_WORD.sub("", postcode).upper()
    return f"{known}|{there}" if known and there else ""
