"""A small JPEG of a picture or of a PDF's first page: a program, since decoding takes C libraries time and memory."""

from __future__ import annotations

import io

import pypdfium2
from PIL import Image, ImageOps, UnidentifiedImageError

from jaded_ledger.core.bounded_programs import be_program

SIDE = 360
"""The longer side of a preview, in pixels."""
MOST_PIXELS = 50_000_000
"""A telephone's largest picture; decoded it takes 200 MB."""
MOST_BYTES = 1024**3
"""Of memory, for the program."""


def preview(content: bytes) -> bytes:
    """Return the small picture. Raises what Pillow and PDFium raise of what they can't read, and ValueError."""
    picture = _first_page(content) if b"%PDF-" in content[:1024] else _picture(content)
    out = io.BytesIO()
    picture.convert("RGB").save(out, "JPEG", quality=80)
    return out.getvalue()


def _first_page(content: bytes) -> Image.Image:
    document = pypdfium2.PdfDocument(content)
    page = document[0]
    found: Image.Image = page.render(scale=SIDE / max(page.get_width(), page.get_height(), 1)).to_pil()
    return found


def _picture(content: bytes) -> Image.Image:
    image = Image.open(io.BytesIO(content))
    if image.width * image.height > MOST_PIXELS:
        raise ValueError("too many pixels")
    # A JPEG is decoded at an eighth of its size where that is enough.
    image.draft("RGB", (2 * SIDE, 2 * SIDE))
    upright = ImageOps.exif_transpose(image)
    upright.thumbnail((SIDE, SIDE))
    return upright


if __name__ == "__main__":
    be_program(
        preview, MOST_BYTES, pypdfium2.PdfiumError, UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError
    )
