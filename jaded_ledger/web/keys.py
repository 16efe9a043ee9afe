"""The keys of all pages in one table: a key does the same wherever it is pressed."""

from __future__ import annotations

KEYS = {
    "?": "help",
    "/": "go to the box: add a line, find a parcel",
    ".": "next",
    ",": "previous",
    " ": "mark as read, on to the next",
    "o": "open",
    "b": "back",
    "z": "undo",
    "a": "select all",
    "u": "clear the selection",
    "v": "select this one, or clear it",
    "x": "exclude, or include again",
    "k": "add to list",
    "t": "tag",
    "s": "stage",
    "n": "note",
    "p": "pass",
    "g": "grade: a comp’s condition, a neighborhood",
    "!": "do not contact",
    "m": "mail the owner",
    "c": "comps",
    "w": "worksheet",
    "d": "draw an area",
    "e": "edit the search as text",
    "h": "choose columns",
    "y": "totals",
    "i": "import file",
    "+": "new list",
    "P": "print",
    "Ctrl s": "save search",
}
"""What each key does: the value of ``data-key`` of a button, link or field, as the browser names the key."""

ON_A_LINE = {
    "s": "turn the line off, or on again",
    "r": "exclude what the line includes, or the other way round",
    "g": "make the line an alternative to the one above",
    "c": "copy the line, turned off",
    "Delete": "remove the line",
}
"""What keys do while a line of a search has the focus; none of them does anything else on that page."""

_NAMES = {" ": "Space", "P": "Shift p", "Delete": "Del"}


def pressed(key: str) -> list[str]:
    """Return the keys to press, each as it is written on a keyboard."""
    return _NAMES.get(key, key).split(" ")
