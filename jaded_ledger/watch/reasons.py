"""Why a row is new, gone or changed: which lines of its search hold now and did not, and the recorded rows that made it so."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE, line_phrase, shown, value_phrase
from jaded_ledger.core.criteria.search import Criterion, Line, Search
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.lazy_property import lazy_property
from jaded_ledger.core.watching.news import PRICE, NewsKind
from jaded_ledger.find.explanations import NotDerivedError, explained
from jaded_ledger.find.line_answers import FALSE, TRUE
from jaded_ledger.properties.record_kinds import KIND_OF, PropertyRecord
from jaded_ledger.properties.statement import About, StatementLine, recorded_lines
from jaded_ledger.records.models import Filed, Parcel, SourceFile, TaxYear
from jaded_ledger.searches.models import Match, Run, Version
from jaded_ledger.searches.services import page_of
from jaded_ledger.watch.news import Item

_LONGEST_IMPORT = timedelta(days=2)
_HELD = {str(TRUE): "held", str(FALSE): "did not hold"}
_HOLDS = {str(TRUE): "holds", str(FALSE): "does not hold"}
_NOT_KNOWN, _DAYS = "not known", CATALOGUE["cumulative-days"]
_NOT_TOLD = "what made it so can’t be told from the records"


@dataclass(frozen=True)
class ToldRow:
    """A recorded row as a reason tells it: what it says, and where it was read."""

    text: str
    row: Filed


@dataclass(frozen=True)
class LineWas:
    """One line of the search as it answered before and as it answers now; for one that answers otherwise, what made it so.

    ``rows`` are the recorded rows taken in since; where there are none, ``because`` says what else did it.
    """

    label: str
    phrase: str
    before: str
    now: str
    is_other: bool = False
    rows: tuple[ToldRow, ...] = ()
    because: str = ""


@dataclass(frozen=True)
class TraitWas:
    """A watched trait that has another value than it had, and the recorded rows that made it so."""

    label: str
    before: str
    now: str
    rows: tuple[ToldRow, ...] = ()


@dataclass(frozen=True)
class Reason:
    """Why a row is told: its search's lines, and what is watched of it; ``since`` is the run before."""

    lines: tuple[LineWas, ...] = ()
    traits: tuple[TraitWas, ...] = ()
    since: datetime | None = None
    at: datetime | None = None
    unknown: str = ""
    """Why it can't be told, where it can't."""


def _run_at(item: Item) -> Run | None:
    return Run.objects.filter(search=item.watch.search, at=item.news.at).first()


def _search_of(run: Run, scope: Scope) -> Search | None:
    """Return the search as it was run; None where it can't be read any more."""
    version = Version.objects.filter(search=run.search_id, number=run.version).first()
    try:
        return page_of(version, scope).search if version else None
    except CriteriaError:
        return None


class _Between:
    """The time between a run and the one before it, in which rows came in or ended.

    A file's rows are stamped with the moment at which its import began, and show with their facts when it is done: only then can a run have
    seen them.
    """

    def __init__(self, run: Run) -> None:
        self._since, self._until = run.before, run.at
        files = SourceFile.objects.filter(taken_in_at__gt=run.before - _LONGEST_IMPORT) if run.before else SourceFile.objects.none()
        self._seconds = dict(files.values_list("taken_in_at", "seconds"))

    def __contains__(self, moment: datetime | None) -> bool:
        if moment is None or self._since is None:
            return False
        return self._since < moment + timedelta(seconds=self._seconds.get(moment, 0)) <= self._until

    def came(self, rows: Iterable[Filed]) -> tuple[Filed, ...]:
        """Return the rows that came in."""
        return tuple(row for row in rows if row.recorded_at in self)

    def came_or_ended(self, rows: Iterable[Filed]) -> tuple[Filed, ...]:
        """Return the rows that came in, and those that ended without another in their place."""
        rows = list(rows)
        came = self.came(rows)
        replaced = {(type(row), row.natural_key) for row in came}
        ended = (row for row in rows if row.superseded_at in self and (type(row), row.natural_key) not in replaced)
        return (*(row for row in came if row.superseded_at is None), *ended)


class _Sources:
    """The rows that a parcel's traits rest on, each trait looked up once, and how its statement tells them.

    ``run`` is the run that noted the news; without one nothing is known to have come in.
    """

    def __init__(self, parcel: Parcel, scope: Scope, search: Search, run: Run | None) -> None:
        self._time = _Between(run) if run else None
        self._parcel, self._scope, self._search = parcel, scope, search
        self._rows: dict[str, tuple[Filed, ...]] = {}
        self._record = PropertyRecord(parcel)

    def value(self, trait: Trait) -> str:
        """Return a trait's value in words; blank where it is not known, or there is none."""
        try:
            figure = explained(self._parcel, trait, self._scope, self._search)
        except NotDerivedError:
            return ""
        return "" if figure.is_unknown or figure.value == NONE else figure.value

    @lazy_property
    def _statement(self) -> dict[tuple[type[Filed], int], StatementLine]:
        lines = recorded_lines(self._record)
        return {(type(line.row), line.row.pk): line for line in lines if line.row is not None and line.day <= self._scope.today}

    def row_shown(self, row: Filed) -> ToldRow:
        """Return a row as the statement has it, the last of its lines; one that has none there by what it is and its number."""
        line = self._statement.get((type(row), row.pk))
        if line is None:
            ended = "" if row.superseded_at is None else ", no longer on record"
            name = (
                f"Tax of {row.year}{'' if row.due else ', nothing due'}" if isinstance(row, TaxYear) else f"{row._meta.verbose_name} {row}"
            )
            return ToldRow(f"{name}{ended}", row)
        number = "no." if line.about in (About.OFFERS, About.USE) else "document"
        parts = (f"{line.document}, {line.day.day} {line.day:%b %Y}", f"{number} {line.number}" if line.number else "")
        return ToldRow(", ".join(filter(None, parts)), row)

    def since(self) -> tuple[ToldRow, ...]:
        """Return what else of the property's record came in or ended between the run and the one before it."""
        if self._time is None:
            return ()
        rows = (row for kind in KIND_OF.values() if not kind.is_private for row in self._record.versions(kind))
        return tuple(map(self.row_shown, self._time.came_or_ended(rows)))

    def between(self, traits: Iterable[Trait]) -> tuple[ToldRow, ...]:
        """Return the rows that traits rest on and that came in between the run and the one before it."""
        if self._time is None:
            return ()
        every = {(type(row), row.pk): row for trait in traits for row in self.rows(trait)}
        return tuple(map(self.row_shown, self._time.came(every.values())))

    def rows(self, trait: Trait) -> tuple[Filed, ...]:
        if trait.key not in self._rows:
            try:
                figure = explained(self._parcel, trait, self._scope, self._search)
            except NotDerivedError:
                self._rows[trait.key] = ()
            else:
                found = {(type(row), row.pk): row for line in figure.lines for row in line.rows}
                self._rows[trait.key] = tuple(found.values())
        return self._rows[trait.key]


def _moves_with_the_day(criterion: Criterion, before: date, now: date) -> bool:
    """Whether a criterion asks of one day another thing than of another: a relative date, or a figure that grows with time."""
    trait = CATALOGUE[criterion.trait]
    if trait.since and before != now:
        return True
    spans = [value for value in (*criterion.accepts, *criterion.refuses) if hasattr(value, "resolve")]
    return any(span.resolve(before) != span.resolve(now) for span in spans)


def _of_an_area(trait: Trait) -> bool:
    """Whether a trait follows the figures of an area, which are of a month: its own section, and what is estimated from sales around."""
    return trait.section is Section.AREA or trait.key in (
        "estimated-value",
        "value-low",
        "value-high",
        "value-sqft",
        "equity",
        "equity-pct",
        "ltv",
    )


def _because(line: Line, run: Run, previous: Run | None) -> str:
    """Return what else than a recorded row made a line answer otherwise; that it can't be told where it can't."""
    members = line.members()
    if previous and any(_moves_with_the_day(one, previous.day, run.day) for one in members):
        return "the day: its date has come or gone"
    traits = [CATALOGUE[one.trait] for one in members]
    if any(trait.of_team for trait in traits):
        return "your team’s lists, tags, stages or worksheets"
    if any(_of_an_area(trait) for trait in traits):
        return "the figures of its area"
    return _NOT_TOLD


def _lines(search: Search, before: str, now: str, run: Run, sources: _Sources) -> tuple[LineWas, ...]:
    applied = [line for line in search.lines if line.is_applied]
    previous = Run.objects.filter(search=run.search_id, at=run.before).first() if run.before else None
    found = []
    for place, line in enumerate(applied):
        was, holds = before[place : place + 1], now[place : place + 1]
        is_other = was != holds
        rows = sources.between(CATALOGUE[one.trait] for one in line.members()) if is_other else ()
        label, phrase = _said(line)
        because = _because(line, run, previous) if is_other and was and not rows else ""
        if because == _NOT_TOLD:
            # What took it away may be no part of what its value rests on now: a tax that was paid, a case that was closed.
            rows = sources.since()
            because = "recorded of it since; what it rested on is no more" if rows else _NOT_TOLD
        told_before = _HELD.get(was, _NOT_KNOWN) if was else "not on record"
        told_now = _HOLDS.get(holds, _NOT_KNOWN) if holds else "not on record"
        found.append(LineWas(label, phrase, told_before, told_now, is_other, rows, because))
    return tuple(found)


def _said(line: Line) -> tuple[str, str]:
    """Return a line's trait and what it asks; of a group the whole as one phrase."""
    if isinstance(line, Criterion):
        return CATALOGUE[line.trait].label, value_phrase(line)
    return "any of", line_phrase(line).removeprefix("any of ")


def _plain(trait: Trait, kept: Any) -> str:
    return shown(trait, date.fromisoformat(kept) if kept is not None and trait.kind is Kind.DATE else kept)


def _by_percent(before: Any, now: Any) -> str:
    return f" ({(now - before) / before * 100:+.1f} %)".replace("-", "−") if before and now else ""


def _traits(item: Item, sources: _Sources) -> tuple[TraitWas, ...]:
    found = []
    for key in item.news.differs(item.watch.traits):
        trait, before, now = CATALOGUE[key], item.news.before.get(key), item.news.after.get(key)
        rows = sources.between([trait])
        more = _by_percent(before, now) if key == PRICE else ""
        found.append(TraitWas(trait.label, _plain(trait, before), f"{_plain(trait, now)}{more}", rows))
    if item.news.kind is NewsKind.BACK and (days := sources.value(_DAYS)):
        # Under another number or not: so long it has been offered in all.
        found.append(TraitWas(_DAYS.label, "", days))
    return tuple(found)


def reason_of(item: Item, scope: Scope) -> Reason:
    """Return why a row is told. What can't be told is said to be unknown, not guessed."""
    run = _run_at(item)
    parcel = Parcel.objects.select_related("county").get(pk=item.parcel_id)
    search = _search_of(run, scope) if run else None
    sources = _Sources(parcel, scope, search or Search(), run)
    traits = _traits(item, sources)
    since, at = (run.before, run.at) if run else (None, None)
    match = Match.objects.get(pk=item.news.stay.key)
    before: str | None
    now: str | None
    if run is None or search is None:
        return Reason((), traits, since, at, "" if traits else "The search can’t be read as it was then.")
    applied = sum(line.is_applied for line in search.lines)
    if item.news.kind is NewsKind.GONE:
        if match.answers_after == "":
            return Reason((), traits, since, at, "The county no longer has a parcel of this number.")
        before, now = str(TRUE) * applied, match.answers_after
    elif item.news.at == match.entered_at:
        before, now = match.answers_before, str(TRUE) * applied
    else:
        # It was in the search all the while: every line held, and holds.
        return Reason((), traits, since, at)
    if before is None or now is None:
        return Reason((), traits, since, at, "Which lines held before was not kept.")
    return Reason(_lines(search, before, now, run, sources), traits, since, at)
