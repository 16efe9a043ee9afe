"""Lists, tags and the like in a search: written by their names, stored by their ids, so that a new name breaks nothing that was kept.

In what is stored, ``@12`` stands where the name stood. A search in the program's hands always has names.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.criteria.search import AnyOf, Center, Criterion, Line, Members, Ring, Search, Value
from jaded_ledger.core.criteria.text import CriteriaError, format, parse
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.core.words import folded
from jaded_ledger.find.team_traits import NamedThing, team_traits

MARK = "@"
"""What a stored id begins with. No name may."""


class _Names:
    """The names of one kind of thing, both ways."""

    def __init__(self, things: Sequence[NamedThing]) -> None:
        self._by_id = {thing.pk: thing.name for thing in things}
        # One that is there takes its name from one that was deleted.
        self._by_name = {folded(thing.name): thing.pk for thing in sorted(things, key=lambda thing: thing.is_current)}

    def stored(self, name: str) -> str:
        pk = self._by_name.get(folded(name))
        return name if pk is None else f"{MARK}{pk}"

    def shown(self, stored: str) -> str:
        pk = whole_number(stored.removeprefix(MARK)) if stored.startswith(MARK) else None
        return self._by_id.get(pk, stored) if pk is not None else stored


def _names_of(key: str, team: Team) -> _Names:
    """Return the names that a trait's things have. A page may ask for many addresses, so they are kept with the team as it was read."""
    kept: dict[tuple[str, int], _Names] = team.__dict__.setdefault("_names_of_things", {})
    if (key, team.version) not in kept:
        things = team_traits()[key].things
        kept[key, team.version] = _Names(things(team) if things else ())
    return kept[key, team.version]


def _translated(search: Search, team: Team, way: Callable[[_Names, str], str]) -> Search:
    """Return a search with the names of things, or their ids, put in another form."""
    return replace(search, lines=tuple(_line(line, team, way) for line in search.lines))


def _line(line: Line, team: Team, way: Callable[[_Names, str], str]) -> Line:
    if isinstance(line, AnyOf):
        return replace(line, criteria=tuple(_criterion(member, team, way) for member in line.criteria))
    return _criterion(line, team, way)


def _criterion(criterion: Criterion, team: Team, way: Callable[[_Names, str], str]) -> Criterion:
    declared = team_traits().get(criterion.trait)
    if declared is None or declared.things is None:
        return criterion
    names = _names_of(criterion.trait, team)

    def value(one: Value) -> Value:
        if isinstance(one, Members):
            return replace(one, items=tuple(way(names, item) for item in one.items))
        return replace(one, at=way(names, one.at)) if isinstance(one, Ring) and one.center is Center.AREA else one

    return replace(criterion, accepts=tuple(map(value, criterion.accepts)), refuses=tuple(map(value, criterion.refuses)))


def stored_text(search: Search, team: Team) -> str:
    """Return the text by which a search is kept, and which stands in its address."""
    return format(_translated(search, team, _Names.stored))


def search_from(text: str, team: Team) -> Search:
    """Return the search that a text means, kept or typed. Raises CriteriaError."""
    return _translated(parse(text), team, _Names.shown)


def current_text(text: str, team: Team) -> str:
    """Return a kept text with the names that things have now; as it is where it can't be read."""
    try:
        return format(search_from(text, team))
    except CriteriaError:
        return text
