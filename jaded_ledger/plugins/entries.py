"""What an app gives to the places in ``hookspecs``."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from django.core.management.base import CommandParser

    from jaded_ledger.accounts.roles import Act
    from jaded_ledger.accounts.scope import Scope
    from jaded_ledger.find.answer import Answer
    from jaded_ledger.records.models import Parcel


@dataclass(frozen=True)
class NavigationPlace:
    """A place in the navigation at the left. A page is in it when its context's ``place`` is the key."""

    key: str
    label: str
    icon: str
    """One of the vendored icons, by its name."""
    url_name: str
    order: int
    """Places stand in the order of the work."""


@dataclass(frozen=True)
class InnerPlace:
    """A page within a place of the navigation, by the place's key. One is in it when its context's ``view`` is the key."""

    within: str
    key: str
    label: str
    url_name: str
    order: int


class FindOutput(Protocol):
    """Something that ``bin/manage find`` can do with the matches of a search."""

    def add_arguments(self, parser: CommandParser) -> None:
        """Declare its options."""

    def asked(self, options: Mapping[str, object]) -> Callable[[Answer], None] | None:
        """Return what writes an ``Answer``, or None where its options ask for nothing. Raises CriteriaError and CommandError."""


@dataclass(frozen=True)
class Face:
    """One way to see the matches of a search in Find: a table, a map.

    ``template`` is its section of the page. It finds what ``context`` gives for an answer, and what the page itself has.
    ``context`` is not asked where the search can't be: the template then finds ``error``.

    One that has ``beside`` shows those other faces side by side, by their keys, and has no template of its own.

    A face that is ``redrawn`` is rendered anew with each answer, as a table is. Any other stays in the page as it is, with its own
    state, and learns of each new search by the event ``find:search``.
    """

    key: str
    label: str
    template: str
    context: Callable[[Answer], Mapping[str, object]]
    order: int
    redrawn: bool = False
    beside: tuple[str, ...] = ()


@dataclass(frozen=True)
class PagePart:
    """Something that an app adds to a page of another: ``template`` finds ``context`` under ``about``, and what the page has."""

    template: str
    context: Mapping[str, object]
    order: int


@dataclass(frozen=True)
class SelectionAct:
    """Something that can be done with rows chosen in Find: a button at the foot of the results.

    ``url_name`` is of a page that takes the key of the selection.
    """

    key: str
    label: str
    url_name: str
    order: int
    is_main: bool = False


@dataclass(frozen=True)
class PropertySection:
    """A section of a property's page below its recorded rows.

    ``context`` is asked, with the parcel and the scope, for what the template needs and finds under ``about``. A ``count`` in it
    stands in the page's index. Where it is None, the section is left out.
    """

    key: str
    title: str
    template: str
    context: Callable[[Parcel, Scope], Mapping[str, object] | None]
    order: int


@dataclass(frozen=True)
class Due:
    """Something that wants the team's attention by a day, with the property that it is about, if it is about one.

    ``kind`` says in a word or two what it is, and names no property, list or person.
    """

    on: date
    kind: str
    what: str
    parcel_id: int | None = None


@dataclass(frozen=True)
class Happening:
    """Something that the team did with a property: when, what, and who did it, where that is known."""

    at: datetime
    what: str
    who: str = ""


@dataclass(frozen=True)
class Done:
    """What an act on a property came to: what is said of it, the address that undoes it, and where it leads, if it leads elsewhere."""

    said: str = ""
    undo: str = ""
    leads_to: str = ""


@dataclass(frozen=True)
class ActField:
    """The field of an act: values to choose from, and what stands in it. Without ``is_choice`` anything may be typed."""

    choices: tuple[str, ...] = ()
    value: str = ""
    is_choice: bool = False
    hint: str = ""


@dataclass(frozen=True)
class PropertyAct:
    """Something that is done to one property on its page: a button, or a field in which a word is typed or chosen.

    ``shortcut`` is one of ``web.keys.KEYS``. ``do`` is given the parcel, the scope and what was typed; ``refuses`` are the errors by
    which it says that it can't be done. ``fill`` gives the parcel's own choices and the one that is set, asked when the page is shown.
    """

    key: str
    label: str
    shortcut: str
    order: int
    do: Callable[[Parcel, Scope, str], Done]
    needs: Act | None
    """Without it nobody may; None for what everybody may."""
    refuses: tuple[type[Exception], ...] = ()
    fill: Callable[[Parcel, Scope], ActField] | None = None
