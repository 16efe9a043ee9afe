"""A team's areas by their names, as searches call them."""

from __future__ import annotations

import difflib

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.words import folded
from jaded_ledger.find.team_traits import NamedThing
from jaded_ledger.maps.models import DrawnArea


def area_named(name: str, team: Team) -> DrawnArea:
    """Return a team's area by its name. Raises CriteriaError for none, with the nearest there is."""
    areas = DrawnArea.objects.filter(team=team, deleted_at=None)
    found = areas.filter(folded=folded(name)).first()
    if found:
        return found
    names = dict(areas.values_list("folded", "name"))
    near = difflib.get_close_matches(folded(name), names, n=1)
    hint = f"; did you mean “{names[near[0]]}”?" if near else ""
    raise CriteriaError(f"“{name}” is none of your team's areas{hint}", word=name)


def every_area(team: Team) -> list[NamedThing]:
    """Return all areas that a team has and had, by which searches are kept."""
    rows = DrawnArea.objects.filter(team=team).values_list("pk", "name", "deleted_at")
    return [NamedThing(pk, name, deleted is None) for pk, name, deleted in rows]
