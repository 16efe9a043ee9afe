"""What an app gives to the places in ``hookspecs``."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any


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
    context: Callable[[Any], Mapping[str, Any]]
    order: int
    redrawn: bool = False
    beside: tuple[str, ...] = ()


@dataclass(frozen=True)
class PagePart:
    """Something that an app adds to a page of another: ``template`` finds ``context`` under ``about``, and what the page has."""

    template: str
    context: Mapping[str, Any]
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
    context: Callable[[Any, Any], Mapping[str, Any] | None]
    order: int


@dataclass(frozen=True)
class Due:
    """Something that wants the team's attention by a day, with the property that it is about, if it is about one."""

    on: date
    what: str
    parcel_id: int | None = None


@dataclass(frozen=True)
class Happening:
    """Something that the team did with a property: when, what, and who did it, where that is known."""

    at: datetime
    what: str
    who: str = ""
