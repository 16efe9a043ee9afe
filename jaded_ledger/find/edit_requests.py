"""What a request asks to be done to a page of Find: read, and not done yet."""

from __future__ import annotations

from dataclasses import dataclass

from django.http import Http404, QueryDict

from jaded_ledger.core.criteria.acts import VERBS
from jaded_ledger.core.criteria.set_members import Sense
from jaded_ledger.core.whole_numbers import whole_number

_MOST_EDITS = 100
"""More can't be waiting for their answer."""
COLUMN_VERBS = frozenset({"columns", "show", "hide", "place", "column-set"})
_OWN_VERBS = frozenset({"counties", "answer", "add", "take", "take-out", "put-back", "keep", "no-longer-keep", "text"})


@dataclass(frozen=True)
class Edit:
    """One edit, ``verb:argument`` as it is sent, and the fields that were sent with it."""

    verb: str
    argument: str
    fields: QueryDict

    @property
    def parts(self) -> tuple[str, str]:
        """The argument before and after its first colon."""
        before, _, after = self.argument.partition(":")
        return before, after


def edit_of(text: str, fields: QueryDict) -> Edit:
    """Return the edit that a text names. Raises Http404 for one that there isn't."""
    verb, _, argument = text.partition(":")
    if verb not in VERBS | COLUMN_VERBS | _OWN_VERBS | set(Sense):
        raise Http404(text)
    return Edit(verb, argument, fields)


def earlier_edits(fields: QueryDict) -> list[Edit]:
    """Return the edits that still wait for their answer, in their order. Raises Http404."""
    texts = fields.getlist("before")
    if len(texts) > _MOST_EDITS:
        raise Http404("no hand is so quick")
    return [edit_of(text, fields) for text in texts]


def asked_edit(fields: QueryDict) -> Edit:
    """Return the edit that a request asks for: the one it names, or what was typed in the box. Raises Http404."""
    return edit_of(fields.get("do") or f"take:{fields.get('typed', '')}", fields)


def parcels_in(text: str) -> list[int]:
    """Return the ids of parcels in a text, with commas between; what is no id is passed over."""
    return [pk for part in text.split(",") if (pk := whole_number(part)) is not None]
