"""What a file is, told from its bytes, and a small picture of it. What can't be told, or could do harm, is refused with the reason."""

from __future__ import annotations

import io
import re
from dataclasses import dataclass

import pypdfium2
from PIL import Image, UnidentifiedImageError

from jaded_ledger.core.bounded_programs import EndedError, run_bounded
from jaded_ledger.core.picture_preview import MOST_PIXELS
from jaded_ledger.worksheets.models.files import FileType

MOST_BYTES = 20_000_000
_MOST_PAGES = 500
_SECONDS = 20
"""So long a small picture may take to be made."""
_DAMAGED_PAGE = "that PDF can’t be opened: its first page is damaged. Save it anew, and choose that"
_NEITHER = "that file is neither a PDF nor a picture (JPEG, PNG, WebP); save it as one of them"
_IMAGES = {"PNG": FileType.PNG, "JPEG": FileType.JPEG, "WEBP": FileType.WEBP}
_ACTIVE = re.compile(rb"/(?:JavaScript|JS|Launch|EmbeddedFile|RichMedia)\b")
"""What a PDF could run or carry (ISO 32000-2, 12.6.4 actions, 7.11.4 embedded files)."""


class FileError(ValueError):
    """A file that can't be kept; the message says why, and what to do."""


@dataclass(frozen=True)
class ReadFile:
    """What a file is: its type, how many pages a PDF has, and a JPEG of its first page or of the picture, small."""

    content_type: FileType
    pages: int | None
    preview: bytes


def read_file(content: bytes) -> ReadFile:
    """Return what a file is. Raises FileError."""
    if not content:
        raise FileError("that file is empty; choose another")
    if len(content) > MOST_BYTES:
        raise FileError(f"that file has {len(content) / 1e6:,.0f} MB; at most {MOST_BYTES / 1e6:,.0f} MB are kept. Save it smaller")
    if b"%PDF-" in content[:1024]:
        return _read_pdf(content)
    return _read_image(content)


def _read_pdf(content: bytes) -> ReadFile:
    if _ACTIVE.search(content):
        raise FileError("that PDF holds a script or another file; print it to PDF, and choose that")
    try:
        document = pypdfium2.PdfDocument(content)
    except pypdfium2.PdfiumError as error:
        why = "it is locked with a password" if "password" in str(error).lower() else "it is damaged"
        raise FileError(f"that PDF can’t be opened: {why}. Save it anew, and choose that") from error
    try:
        pages = len(document)
        if not 1 <= pages <= _MOST_PAGES:
            raise FileError(f"that PDF has {pages:,} pages; from 1 to {_MOST_PAGES} are kept")
    finally:
        document.close()
    return ReadFile(FileType.PDF, pages, _preview(content, _DAMAGED_PAGE))


def _read_image(content: bytes) -> ReadFile:
    try:
        with Image.open(io.BytesIO(content)) as image:
            if image.format not in _IMAGES:
                raise FileError(f"that picture is none of {', '.join(_IMAGES)}; save it as one of them")
            # The size stands at a picture's beginning: nothing is decoded for it.
            if image.width * image.height > MOST_PIXELS:
                raise FileError(f"that picture has more than {MOST_PIXELS / 1e6:.0f} megapixels; save it smaller")
            kind = _IMAGES[image.format]
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        if isinstance(error, FileError):
            raise
        raise FileError(_NEITHER) from error
    return ReadFile(kind, None, _preview(content, _NEITHER))


def _preview(content: bytes, damaged: str) -> bytes:
    """Return the small picture, decoded in a process of its own. Raises FileError."""
    try:
        return run_bounded("jaded_ledger.core.picture_preview", content, _SECONDS)
    except EndedError as error:
        raise FileError(damaged if error.is_unreadable else "that file takes too long to show; save it smaller") from None
