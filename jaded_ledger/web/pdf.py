"""Documents as PDF, from HTML. Nothing is fetched but what the document holds itself."""

from __future__ import annotations

import base64
from functools import lru_cache
from pathlib import Path

from django.utils.safestring import SafeString, mark_safe

from jaded_ledger.core import mail

_FONTS = {400: "IBMPlexSans-Regular.ttf", 600: "IBMPlexSans-SemiBold.ttf"}


def data_address(kind: str, content: bytes) -> str:
    """Return bytes as an address that holds them (RFC 2397)."""
    return f"data:{kind};base64,{base64.b64encode(content).decode()}"


@lru_cache(1)
def typefaces() -> SafeString:
    """Return the style that names our typeface, "Plex", its files within it."""
    folder = Path(mail.__file__).parent / "fonts"
    faces = (
        f"@font-face {{ font-family: Plex; font-weight: {weight}; src: url({data_address('font/ttf', (folder / name).read_bytes())}) }}"
        for weight, name in _FONTS.items()
    )
    return mark_safe("\n".join(faces))


def pdf_of(html: str) -> bytes:
    """Return a document as PDF. WeasyPrint takes half a second to load, so only who prints waits for it."""
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher

    only_within = URLFetcher(allowed_protocols=["data"], allow_redirects=False)
    written: bytes = HTML(string=html, url_fetcher=only_within).write_pdf()
    return written
