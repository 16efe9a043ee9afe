"""Which encoding a text file is in: by its mark, by being UTF-8, else by which one makes names and words of it.

Libraries that guess encodings weigh running text in many languages; on columns of short names in capitals, which is
what offices send, they mistake Windows-1252 for Mac Roman and the reverse. Here only Western encodings are in question,
and only letters next to letters count.
"""

from __future__ import annotations

import codecs
import re
from pathlib import Path

ENCODINGS = {
    "utf_8_sig": "UTF-8",
    "utf_16": "UTF-16",
    "cp1252": "Windows-1252 (Western)",
    "latin_1": "ISO 8859-1 (Latin 1)",
    "iso8859_15": "ISO 8859-15 (Latin 9)",
    "mac_roman": "Mac Roman",
    "cp850": "DOS 850",
    "cp437": "DOS 437",
}
_MARKS = ((codecs.BOM_UTF8, "utf_8_sig"), (codecs.BOM_UTF16_LE, "utf_16"), (codecs.BOM_UTF16_BE, "utf_16"))
_BLOCK = 1 << 20
_ENOUGH = 1 << 17
_NOT_ASCII = re.compile(rb"[^\r\n]{0,60}[\x80-\xff][^\r\n]{0,60}")
_LETTERS = frozenset(chr(code) for code in range(0xC0, 0x100) if code not in (0xD7, 0xF7)) | frozenset("ŒœŠšŽžŸ")
_SIGNS = frozenset("’‘“”–—…•€£©®™°½¼¾§«»·²³\xa0")


def find_encoding(path: Path) -> str:
    """Return the encoding of a text file, one of ``ENCODINGS``."""
    with path.open("rb") as handle:
        top = handle.read(4)
    for mark, encoding in _MARKS:
        if top.startswith(mark):
            return encoding
    if is_in(path, "utf_8_sig"):
        return "utf_8_sig"
    lines = _telling_lines(path)
    western = [name for name in ENCODINGS if not name.startswith("utf")]
    likely = sorted(western, key=lambda name: -likeness(lines.decode(name, errors="replace")))
    return next(name for name in (*likely, "latin_1") if is_in(path, name))


def likeness(text: str) -> float:
    """Return from -1 to 1 how much what is not ASCII in a text looks like accents in names and signs between words.

    >>> likeness("MÜLLER JOSÉ"), likeness("M†LLER JOSƒ")
    (1.0, -1.0)
    """
    scores = []
    for place, character in enumerate(text):
        if character < "\x80":
            continue
        before, after = text[place - 1 : place], text[place + 1 : place + 2]
        if character in _LETTERS:
            # A capital stands at the beginning or among capitals; a small letter is followed by small ones.
            fits = not before.islower() if character.isupper() else not after.isupper()
            scores.append(1.0 if fits and (before.isalpha() or after.isalpha()) else -0.5)
        elif character in _SIGNS:
            within = before.isalpha() and after.isalpha() and character != "’"
            scores.append(-0.5 if within else 0.5)
        else:
            scores.append(-1.0)
    return sum(scores) / len(scores) if scores else 0.0


def _telling_lines(path: Path) -> bytes:
    """Return what stands around the first bytes that are not ASCII: only they tell."""
    found: list[bytes] = []
    size = 0
    with path.open("rb") as handle:
        while size < _ENOUGH and (block := handle.read(_BLOCK)):
            found += (parts := _NOT_ASCII.findall(block))
            size += sum(map(len, parts))
    return b"\n".join(found)[:_ENOUGH]


def is_in(path: Path, encoding: str) -> bool:
    """Return whether the whole file can be read in an encoding."""
    decoder = codecs.getincrementaldecoder(encoding)()
    try:
        with path.open("rb") as handle:
            while block := handle.read(_BLOCK):
                decoder.decode(block)
            decoder.decode(b"", final=True)
    except UnicodeDecodeError:
        return False
    return True
