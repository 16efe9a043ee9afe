"""From a search to one queryset. This is the only place where filters are built.

Every condition is true, false or unknown, as SQL has it. ``~Q()`` and ``exclude()`` are not used: on a nullable
column Django makes them true for every unknown. See docs/decisions/0002-three-valued-conditions.md.
"""

from __future__ import annotations

import difflib
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import reduce
from operator import and_, or_
from typing import cast

from django.db import connection
from django.db.models import BooleanField, ExpressionWrapper, F, FloatField, IntegerField, Q, QuerySet
from django.db.models.expressions import BaseExpression

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core import dates
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import (
    AnyOf,
    Criterion,
    Exactly,
    FigureRange,
    Line,
    Match,
    Members,
    Named,
    Numbers,
    Presence,
    Quantity,
    Search,
    Value,
)
from jaded_ledger.core.criteria.text import CriteriaError, format
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.phrases import expression, expression_in, plain_texts
from jaded_ledger.core.words import folded, words_of
from jaded_ledger.find.numbered_parcels import parcel_numbers
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.team_traits import team_traits
from jaded_ledger.records.models import Area, County, ParcelFacts
from jaded_ledger.records.trait_columns import column_of, field_of, is_unknown, table_of
from jaded_ledger.records.versions import facts_version


def _text(line: Line) -> str:
    if isinstance(line, AnyOf):
        line = replace(line, criteria=tuple(replace(member, ask=False) for member in line.criteria if member.is_applied))
    else:
        line = replace(line, ask=False)
    return format(Search((), (line,)))


@dataclass(frozen=True)
class Compiled:
    """A search made askable.

    ``opening`` is every parcel of the chosen counties; ``conditions`` has one for each line, None for a line that is
    not applied; ``counties`` are those chosen, ``scope`` is on whose behalf it is asked. ``narrowed`` has, of lines on figures
    that few parcels have, among which ids the matches are: the same matches, and the database begins there.
    """

    search: Search
    counties: tuple[County, ...]
    opening: QuerySet[ParcelFacts]
    conditions: tuple[Q | None, ...]
    scope: Scope
    narrowed: tuple[Q | None, ...]

    @property
    def matches(self) -> QuerySet[ParcelFacts]:
        asked = (among or condition for condition, among in zip(self.conditions, self.narrowed, strict=True))
        return self.opening.filter(*(condition for condition in asked if condition is not None))

    def also(self, condition: Q) -> Compiled:
        """Return it with one condition more."""
        return replace(self, conditions=(*self.conditions, condition), narrowed=(*self.narrowed, None))

    @property
    def line_texts(self) -> tuple[str, ...]:
        """What tells each applied line from others, whether or not it asks for its value."""
        asked = zip(self.search.lines, self.conditions, strict=True)
        return tuple(_text(line) for line, condition in asked if condition is not None)

    @property
    def state(self) -> str:
        """What its answers depend on beside what is asked: anything that could change one changes it."""
        counties = "-".join(str(county.pk) for county in self.counties)
        return f"{facts_version()}:{self.scope.team.pk}:{self.scope.team.version}:{self.scope.today}:{counties}"


@dataclass(frozen=True)
class _Question:
    """What a compiler of one kind of trait is given. The text form lets a kind of trait have its own kinds of values only."""

    trait: Trait
    values: tuple[Value, ...]
    counties: tuple[County, ...]
    scope: Scope
    refused: tuple[Value, ...] = ()
    """Names or phrases that are refused: those are looked for in the same texts at once."""

    @property
    def column(self) -> str:
        return column_of(self.trait)


def not_(asked: Q) -> Q:
    """Negate with SQL's NOT, which keeps unknown unknown."""
    return Q(~ExpressionWrapper(asked, output_field=BooleanField()))


def _never(column: str) -> Q:
    """False wherever the column is known, unknown where it is not."""
    return Q(**{f"{column}__lt": F(column)})


def _between(column: str, low: int | float | None, high: int | float | None) -> Q:
    if low is not None and low == high:
        return Q(**{column: low})
    ends = [Q(**{f"{column}__gte": low})] if low is not None else []
    ends += [Q(**{f"{column}__lte": high})] if high is not None else []
    return reduce(and_, ends)


def _ends(value: Value) -> tuple[Decimal | None, Decimal | None]:
    if isinstance(value, Exactly):
        figure = cast("Decimal", value.value)
        return figure, figure
    span = cast("FigureRange", value)
    return span.low, span.high


def _figures(question: _Question) -> Q:
    """Compare what is stored and shown: whole numbers with whole ends, others to their decimals."""
    field = field_of(question.trait) or (IntegerField() if question.trait.since else None)
    found = []
    for low, high in map(_ends, question.values):
        if field is None or isinstance(field, FloatField):
            found.append(_between(question.column, *(None if end is None else float(end) for end in (low, high))))
            continue
        # An end beyond what the column can hold would make Django answer true or false for unknowns too.
        least, most = connection.ops.integer_field_range(field.get_internal_type())
        first = None if low is None else max(math.ceil(low), least)
        last = None if high is None else min(math.floor(high), most)
        if (first is not None and first > most) or (last is not None and last < least) or (
            first is not None and last is not None and first > last
        ):  # fmt: skip
            found.append(_never(question.column))
        else:
            found.append(_between(question.column, first, last))
    return reduce(or_, found)


def _days(question: _Question) -> Q:
    found = []
    for span in cast("tuple[dates.Span, ...]", question.values):
        days = span.resolve(question.scope.today)
        if days.low and days.high and days.low > days.high:
            found.append(_never(question.column))
            continue
        ends = [Q(**{f"{question.column}__gte": days.low})] if days.low else []
        ends += [Q(**{f"{question.column}__lte": days.high})] if days.high else []
        found.append(reduce(and_, ends))
    return reduce(or_, found)


def _words(question: _Question) -> list[str]:
    return [cast("str", value.value) for value in cast("tuple[Exactly, ...]", question.values)]


def _choices(question: _Question) -> Q:
    codes = sorted({code for word in _words(question) for code in question.trait.codes(word)})
    return Q(**{f"{question.column}__in": codes})


def _flags(question: _Question) -> Q:
    return reduce(or_, (Q(**{question.column: value.value}) for value in cast("tuple[Exactly, ...]", question.values)))


def places_of(trait: Trait, counties: Sequence[County]) -> QuerySet[Area]:
    """Return the areas that a place trait can be, in the chosen counties. States are the same in all."""
    kind = trait.fact.removeprefix("mailing_")
    areas = Area.objects.filter(kind=kind)
    return areas if kind == Area.AreaKind.STATE else areas.filter(county__in=counties)


def _places(question: _Question) -> Q:
    wanted = {folded(name): name for name in _words(question)}
    found = list(places_of(question.trait, question.counties).filter(folded__in=wanted).values_list("folded", "id"))
    for missing in wanted.keys() - {name for name, _ in found}:
        _refuse_elsewhere(question, missing, wanted[missing])
        names = list(places_of(question.trait, question.counties).values_list("text", flat=True))
        raise CriteriaError(_not_on_record(question.trait.label, wanted[missing], names), word=wanted[missing])
    return Q(**{f"{question.column}__in": sorted(pk for _, pk in found)})


def _refuse_elsewhere(question: _Question, name: str, written: str) -> None:
    """Raise CriteriaError for a place that lies in a county that is not chosen."""
    kind = question.trait.fact.removeprefix("mailing_")
    there = Area.objects.filter(kind=kind, folded=name, county__isnull=False).values_list("county__name", flat=True)
    if counties := sorted(set(there)):
        raise CriteriaError(f'"{written}" lies in {" and ".join(counties)}, which is not chosen; choose that county, too', word=written)


def _not_on_record(what: str, name: str, names: Sequence[str]) -> str:
    near = difflib.get_close_matches(folded(name), [folded(known) for known in names], n=1)
    nearest = next((known for known in names if near and folded(known) == near[0]), "")
    return f'"{name}" is not a {what} on record' + (f"; did you mean {nearest}?" if nearest else "")


def named(value: Named) -> Q:
    """Return the condition on a table of names: exact, a beginning, or every word anywhere."""
    match value.match:
        case Match.EXACT:
            return Q(folded=folded(value.text))
        case Match.BEGINNING:
            return Q(words__startswith=f" {' '.join(words_of(value.text))}")
    # A text without any word, such as "&", is in no name.
    every = [has_phrase("words", piece) for piece in value.text.split() if expression(piece)]
    return reduce(and_, every) if every else Q(pk__in=[])


def has_phrase(words: str, phrase: str, *, holds: str = "contains") -> Q:
    """Return the condition that a line of words has a phrase. ``holds`` is the lookup that finds a text in it."""
    texts = plain_texts(phrase)
    if texts:
        return reduce(or_, (Q(**{f"{words}__{holds}": text}) for text in texts))
    wanted = expression(phrase)
    return Q(**{f"{words}__regex": wanted}) if wanted else Q(pk__in=[])


def _own_text(question: _Question, value: Named) -> Q:
    """Compare a county's own text, which stands in the row itself beside its words."""
    column, words = question.column, words_of(value.text)
    match value.match:
        case Match.EXACT:
            return Q(**{f"{column}__iexact": " ".join(value.text.split())})
        case Match.BEGINNING:
            return Q(**{f"{column}_words__startswith": f" {' '.join(words)}"})
    # A further column is a key of a JSON value, of which "contains" asks something else.
    every = [has_phrase(f"{column}_words", piece, holds="icontains") for piece in value.text.split() if expression(piece)]
    return reduce(and_, every) if every else _never(column)


def _names(question: _Question) -> Q:
    if question.trait.is_own:
        return reduce(or_, (_own_text(question, value) for value in cast("tuple[Named, ...]", question.values)))
    return _texts(question, lambda value: named(cast("Named", value)))


def _texts(question: _Question, holds: Callable[[Value], Q]) -> Q:
    """Return the condition that the text a column points at holds one of the values, and none of those refused."""
    asked = reduce(or_, map(holds, question.values))
    if question.refused:
        # A text's words are never unknown, so that leaving out is plain here.
        asked &= ~reduce(or_, map(holds, question.refused))
    ids = table_of(question.trait)._default_manager.filter(asked).values("id")
    # IN over an empty answer is false even for an unknown text; the second part keeps it unknown.
    return Q(**{f"{question.column}__in": ids}) | _never(question.column)


def _phrases(question: _Question) -> Q:
    """Compare running text with phrases; the index over its words finds the candidates."""
    return _texts(question, lambda value: _phrased(cast("Members", value)))


def _phrased(value: Members) -> Q:
    each = [phrase_in_fields("words", phrase, value.within) for phrase in value.items]
    return reduce(and_ if value.quantity is Quantity.ALL else or_, each)


def phrase_in_fields(words: str, phrase: str, within: Sequence[str]) -> Q:
    """Return the condition that a listing's remarks have a phrase, in any of their fields or in those named."""
    if not within:
        return has_phrase(words, phrase)
    fields = CATALOGUE["remarks"].fields
    wanted = expression_in(phrase, [fields.index(name) for name in within])
    return Q(**{f"{words}__regex": wanted}) if wanted else Q(pk__in=[])


def _members(question: _Question) -> Q:
    """Compare a set's members, by their codes where they are declared."""
    found = []
    for value in cast("tuple[Members, ...]", question.values):
        each = [list(question.trait.codes(item)) if question.trait.choices else [folded(item)] for item in value.items]
        if value.quantity is Quantity.ALL:
            found.append(reduce(and_, (Q(**{f"{question.column}__overlap": codes}) for codes in each)))
        else:
            found.append(Q(**{f"{question.column}__overlap": [code for codes in each for code in codes]}))
    return reduce(or_, found)


def _presence(trait: Trait, value: Presence) -> Q:
    """Ask whether there is such an event, whether a set holds anything, or whether there is a value; unknown where the value is."""
    known = Q(**{f"{trait.fact}__gte": F(trait.fact)})
    if trait.event:
        asked = known if value.is_there else _never(trait.fact)
        if trait.zero_is_none or trait.nothing:
            asked = Q(**{f"{trait.fact}__gt": 0}) if value.is_there else Q(**{trait.fact: 0})
        there = Q(**{trait.event: True}) & asked
        return there if value.is_there else Q(**{trait.event: False}) | there
    if trait.kind is Kind.SET:
        return Q(**{f"{trait.fact}__len__gt": 0}) if value.is_there else Q(**{f"{trait.fact}__len": 0})
    return Q(**{f"{trait.fact}__gt": 0}) if trait.nothing else known


def _parcel_numbers(question: _Question) -> Q:
    return parcel_numbers(cast("tuple[Numbers, ...]", question.values), question.counties)


_BY_KIND: dict[Kind, Callable[[_Question], Q]] = {
    Kind.NUMBER: _figures,
    Kind.PERCENT: _figures,
    Kind.MONEY: _figures,
    Kind.DATE: _days,
    Kind.CHOICE: _choices,
    Kind.FLAG: _flags,
    Kind.PLACE: _places,
    Kind.NAME: _names,
    Kind.PARCEL_NUMBER: _parcel_numbers,
    Kind.PHRASES: _phrases,
    Kind.SET: _members,
}


def _asked(trait: Trait, values: tuple[Value, ...], counties: tuple[County, ...], scope: Scope, refused: tuple[Value, ...] = ()) -> Q:
    """Return the condition that one of some values holds, and none of those refused. Of what there was no event of, no value does."""
    declared = team_traits().get(trait.key)
    if declared and declared.condition:
        return declared.condition(values, scope)
    found = [_presence(trait, value) for value in values if isinstance(value, Presence)]
    others = tuple(value for value in values if not isinstance(value, Presence))
    if others:
        compared = _BY_KIND[trait.kind](_Question(trait, others, counties, scope, refused))
        found.append(Q(**{trait.event: True}) & compared if trait.event else compared)
    return reduce(or_, found)


def _is_one_look(criterion: Criterion) -> bool:
    """Return whether what is accepted and what is refused are texts that are looked for at once."""
    trait = CATALOGUE[criterion.trait]
    values = (*criterion.accepts, *criterion.refuses)
    return trait.kind in (Kind.PHRASES, Kind.NAME) and not trait.is_own and not any(isinstance(value, Presence) for value in values)


def condition(criterion: Criterion, counties: tuple[County, ...], scope: Scope) -> Q:
    """Return one criterion as a condition. Raises CriteriaError."""
    trait = CATALOGUE[criterion.trait]
    parts, refused = [], criterion.refuses
    if criterion.accepts:
        together = refused if _is_one_look(criterion) else ()
        parts.append(_asked(trait, criterion.accepts, counties, scope, together))
        refused = () if together else refused
    if refused:
        parts.append(not_(_asked(trait, refused, counties, scope)))
    if not parts:
        return unknown_of(trait)
    asked = reduce(and_, parts)
    return asked | unknown_of(trait) if criterion.unknown else asked


def unknown_of(trait: Trait) -> Q:
    """Return the condition that a trait is unknown, the records' or a team's. It is true or false, never unknown itself."""
    declared = team_traits().get(trait.key)
    return declared.unknown if declared and declared.unknown else is_unknown(trait)


def _line(line: Line, counties: tuple[County, ...], scope: Scope) -> Q | None:
    if not line.is_applied:
        return None
    if isinstance(line, AnyOf):
        return reduce(or_, (condition(member, counties, scope) for member in line.criteria if member.is_applied))
    return condition(line, counties, scope)


def _narrowed(line: Line, scope: Scope) -> Q | None:
    """Return among which ids a line's parcels are, where its trait tells; None for one that takes blanks or refuses."""
    if not isinstance(line, Criterion) or not line.is_applied or line.unknown or line.refuses or not line.accepts:
        return None
    declared = team_traits().get(line.trait)
    return Q(pk__in=declared.among(line.accepts, scope)) if declared and declared.among else None


def chosen_counties(search: Search) -> tuple[County, ...]:
    """Return the counties that open a search; all on record when it names none. Raises CriteriaError."""
    known = {folded(county.name): county for county in County.objects.order_by("name")}
    if not search.counties:
        return tuple(known.values())
    for name in search.counties:
        if folded(name) not in known:
            names = [county.name for county in known.values()]
            raise CriteriaError(_not_on_record("county", name, names), word=name)
    return tuple(dict.fromkeys(known[folded(name)] for name in search.counties))


def compile(search: Search, scope: Scope) -> Compiled:
    """Return a search as conditions on the parcels' facts.

    Raises CriteriaError for a county, place or parcel number that is not there.
    """
    counties = chosen_counties(search)
    opening = parcels(scope)
    if search.counties:
        opening = opening.filter(county__in=[county.pk for county in counties])
    opening = opening.alias(**values_of_search(search, scope))
    conditions = tuple(_line(line, counties, scope) for line in search.lines)
    return Compiled(search, counties, opening, conditions, scope, tuple(_narrowed(line, scope) for line in search.lines))


def values_of_search(search: Search, scope: Scope) -> dict[str, BaseExpression]:
    """Return the values, by column, that rest on what the search itself asks."""
    asked = [declared for key in search.traits() if (declared := team_traits().get(key)) and declared.of_search]
    found = {declared.trait.fact: declared.of_search(search, scope) for declared in asked if declared.of_search}
    return {column: value for column, value in found.items() if value is not None}


def compiled_or_opening(search: Search, scope: Scope) -> Compiled:
    """Return a search compiled, or when it can't be asked, its counties alone."""
    try:
        return compile(search, scope)
    except CriteriaError:
        pass
    try:
        return compile(Search(search.counties), scope)
    except CriteriaError:
        return compile(Search(), scope)
