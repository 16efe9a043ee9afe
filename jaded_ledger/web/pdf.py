"""Documents as PDF, from HTML. Nothing is fetched but what the document holds itself."""

from __future__ import annotations

import base64
import re
from functools import lru_cache
from pathlib import Path

from jaded_ledger.core import mail
from jaded_ledger.core.mail.typesetting import others_needed

_FONTS = {400: "IBMPlexSans-Regular.ttf", 600: "IBMPlexSans-SemiBold.ttf"}


def data_address(kind: str, content: bytes) -> str:
    """Return bytes as an address that holds them (RFC 2397)."""
    return f"data:{kind};base64,{base64.b64encode(content).decode()}"


@lru_cache(1)
def _typefaces() -> str:
    """Return the style that names our typeface, "Plex", its files within it."""
    folder = Path(mail.__file__).parent / "fonts"
    return "\n".join(
        f"@font-face {{ font-family: Plex; font-weight: {weight}; src: url({data_address('font/ttf', (folder / name).read_bytes())}) }}"
        for weight, name in _FONTS.items()
    )


def pdf_of(html: str, style: str, drawing_style: str) -> bytes:
    """Return a document as PDF, set by a style sheet; its drawings have one of their own, which is put into each of them.

    WeasyPrint takes half a second to load, so only who prints waits for it.
    """
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration
    from weasyprint.urls import URLFetcher

    # A name in another script is set in that script's typeface; the program that lays out knows how its letters join.
    others = others_needed(html)
    faces = "\n".join(
        f'@font-face {{ font-family: "{name}"; src: url({data_address("font/ttf", file.read_bytes())}) }}' for name, file in others.items()
    )
    family = ", ".join(["Plex", *(f'"{name}"' for name in others)])
    style, drawing_style = (one.replace("font-family: Plex", f"font-family: {family}") for one in (style, drawing_style))
    only_within, fonts = URLFetcher(allowed_protocols=["data"], allow_redirects=False), FontConfiguration()
    sheet = CSS(string=f"{_typefaces()}\n{faces}\n{style}", font_config=fonts, url_fetcher=only_within)
    drawn = re.sub(r"<svg\b[^>]*>", lambda tag: f"{tag[0]}<style>{drawing_style}</style>", html)
    written: bytes = HTML(string=drawn, url_fetcher=only_within).write_pdf(stylesheets=[sheet], font_config=fonts)
    return written
