"""The pages that an end has for its documents, for people to open."""

from __future__ import annotations

from urllib.parse import urljoin, urlsplit

# As long as a link that is kept of a document.
LONGEST = 500


def page_at(address: str, page: object) -> str:
    """The link to a page that an end names, on its own host; empty where it names none, or one elsewhere.

    Example:
        >>> page_at("https://erp.example/marrowby", "/marrowby/invoice/12")
        'https://erp.example/marrowby/invoice/12'
        >>> page_at("https://erp.example/marrowby", "https://elsewhere.example/")
        ''
    """
    if not isinstance(page, str) or not page or not page.isprintable():
        return ""
    try:
        link = urljoin(address, page)
        there, here = urlsplit(link), urlsplit(address)
    except ValueError:
        return ""
    # What people click on stays at the end that they signed in to, and is never a script.
    is_there = there.scheme in ("http", "https") and there.netloc == here.netloc
    return link if is_there and len(link) <= LONGEST else ""
