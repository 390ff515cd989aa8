"""Inkwell Bridge: carries storefront orders onto accounting documents, once, whole and provably."""

__version__ = "0.1.0"
