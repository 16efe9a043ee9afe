"""The faces of the results: the table, and what other apps add. Which one is shown, and how wide the ledger is, is kept per user."""

from __future__ import annotations

from typing import Any

from django.http import QueryDict

from jaded_ledger.accounts.models import User
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.models import FindLayout
from jaded_ledger.plugins import hooks, in_order
from jaded_ledger.plugins.entries import Face

_NARROWEST, _WIDEST, _WIDEST_ROOM = 40, 800, 10_000
"""Of a column, and of all of them together, in CSS pixels."""


def faces() -> list[Face]:
    """Return the ways to see the matches, in order."""
    return in_order(hooks.faces())


def parts_of(face: Face) -> list[Face]:
    """Return the faces that are seen when one is shown: itself, or those that it shows side by side."""
    by_key = {one.key: one for one in faces()}
    return [by_key[key] for key in face.beside] or [face]


def layout_of(user: User | None) -> FindLayout:
    """Return how a user has Find laid out; as it comes, where nothing was changed."""
    return FindLayout.objects.filter(user=user).first() or FindLayout(user=user)


def face_shown(query: QueryDict, layout: FindLayout) -> Face:
    """Return the face that a request names, otherwise the one that its user saw last, otherwise the first."""
    offered = faces()
    by_key = {face.key: face for face in offered}
    return by_key.get(query.get("face", "")) or by_key.get(layout.face) or offered[0]


def keep_layout(user: User, sent: QueryDict) -> None:
    """Keep what is sent of a user's layout: ``face``, ``ledger_width``, ``room``, and how wide a ``column`` was made (``width``, 0 to
    leave it to its values). What no layout can be is left as it was."""
    changed: dict[str, Any] = {}
    if (key := sent.get("face", "")) in {face.key for face in faces()}:
        changed["face"] = key
    if (width := whole_number(sent.get("ledger_width"))) is not None:
        changed["ledger_width"] = min(max(width, FindLayout.narrowest), FindLayout.widest)
    if (room := whole_number(sent.get("room"))) is not None:
        changed["room"] = min(room, _WIDEST_ROOM)
    if (key := sent.get("column", "")) in CATALOGUE and (width := whole_number(sent.get("width"))) is not None:
        widths = {other: kept for other, kept in layout_of(user).column_widths.items() if other != key and other in CATALOGUE}
        changed["column_widths"] = widths | ({key: min(max(width, _NARROWEST), _WIDEST)} if width else {})
    if changed:
        FindLayout.objects.update_or_create(user=user, defaults=changed)
