"""Contacts as vCards, version 3.0 (RFC 2426): what every address book reads."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

_LONGEST = 75
"""Octets of a line; longer ones go on in the next, after a space (section 2.6)."""


@dataclass(frozen=True)
class Contact:
    """Who stands on a card: a person by surname and given name, or somebody else by a name alone."""

    name: str
    surname: str = ""
    given: str = ""
    suffix: str = ""
    street: str = ""
    city: str = ""
    state: str = ""
    zip_code: str = ""
    telephones: Sequence[str] = ()
    emails: Sequence[str] = ()
    note: str = ""


def _escaped(text: str) -> str:
    """Return a value's text; what parts values is escaped (section 5)."""
    for sign in ("\\", ";", ","):
        text = text.replace(sign, f"\\{sign}")
    return text.replace("\r\n", "\\n").replace("\n", "\\n").replace("\r", "\\n")


def _folded(line: str) -> Iterator[str]:
    """Yield a line in pieces of at most 75 octets, no character torn."""
    piece = ""
    for character in line:
        if len((piece + character).encode()) > _LONGEST:
            yield piece
            piece = " "
        piece += character
    yield piece


def card(contact: Contact) -> str:
    """Return a contact's card, each line with its end."""
    lines = ["BEGIN:VCARD", "VERSION:3.0", f"FN:{_escaped(contact.name)}"]
    if contact.surname or contact.given:
        lines.append(f"N:{_escaped(contact.surname)};{_escaped(contact.given)};;;{_escaped(contact.suffix)}")
    else:
        # Who is no person has a family name to be sorted by, and is an organization.
        lines += [f"N:{_escaped(contact.name)};;;;", f"ORG:{_escaped(contact.name)}"]
    if contact.street or contact.city:
        parts = (contact.street, contact.city, contact.state, contact.zip_code, "")
        lines.append(f"ADR;TYPE=postal:;;{';'.join(map(_escaped, parts))}")
    lines += [f"TEL;TYPE=voice:{_escaped(one)}" for one in contact.telephones]
    lines += [f"EMAIL;TYPE=internet:{_escaped(one)}" for one in contact.emails]
    if contact.note:
        lines.append(f"NOTE:{_escaped(contact.note)}")
    return "".join(f"{piece}\r\n" for line in (*lines, "END:VCARD") for piece in _folded(line))
