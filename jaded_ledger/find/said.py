"""A sentence that is typed, read with the names on record of the chosen counties."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Sequence
from decimal import Decimal

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import line_phrase
from jaded_ledger.core.criteria.language.reading import Reading, read
from jaded_ledger.core.criteria.language.tokens import lex
from jaded_ledger.core.criteria.search import Criterion, Exactly, FigureRange, Search
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.find.corrections import corrections_of
from jaded_ledger.find.recorded_names import RecordedNames
from jaded_ledger.records.models import County
from jaded_ledger.records.own_columns import traits_of

MOST_OPTIONS = 12
"""So many of the searches that a sentence may mean are offered."""


LONGEST_TYPED = 200
"""Characters that the box takes."""


def reading_of(typed: str, counties: Sequence[County], scope: Scope) -> Reading:
    """Return what a sentence means here."""
    traits = tuple(trait for trait in traits_of(counties) if trait.key != "county")
    return read(typed, traits, RecordedNames(counties, scope.team), scope.today, corrections_of(scope.team))


def is_sentence(typed: str) -> bool:
    """Return whether a text has more than one word or figure: one alone is a name."""
    return sum(token.counts for token in lex(typed)) > 1


def searches_of(reading: Reading) -> list[tuple[tuple[str, ...], Search]]:
    """Return the searches that a reading may mean, the likeliest first, each with its lines as a reading has them.

    There is none where a part asks for what no record tells.
    """
    if not reading.parts or reading.cannot:
        return []
    found: dict[Search, tuple[str, ...]] = {}
    for chosen in itertools.islice(itertools.product(*(part.options for part in reading.parts)), MOST_OPTIONS):
        lines = tuple(dict.fromkeys(line for option in chosen for line in option))
        try:
            found.setdefault(parse(text_of(lines)), lines)
        except CriteriaError:
            continue
    return [(lines, search) for search, lines in found.items()]


def open_ends(lines: Iterable[str]) -> list[Criterion]:
    """Return *or more* and *or less* of lines that ask for one exact figure."""
    match parse(text_of(lines)).lines:
        case (Criterion(trait, (Exactly(Decimal() as figure),), ()),):
            return [Criterion(trait, (ends,)) for ends in (FigureRange(figure, None), FigureRange(None, figure))]
    return []


def text_of(lines: Iterable[str]) -> str:
    """Return the text form of a reading's lines; of alternatives ``{a | b}`` a group."""
    written = []
    for line in lines:
        members = [member.strip() for member in line.strip("{}").split(" | ")] if line.startswith("{") else []
        written.append("any of:\n" + "\n".join(f"  {member}" for member in members) if members else line)
    return "\n".join(written)


def explained(reading: Reading, shown: Callable[[str], str] = str) -> list[str]:
    """Return a line for each part of a reading: its words and what they mean, or may mean; then what is not used, or can't be asked."""
    lines = []
    for part in reading.parts:
        options = ["; ".join(map(shown, option)) for option in part.options]
        lines.append(f"“{part.words}”: {options[0] if len(options) == 1 else 'either ' + ', or '.join(options)}")
    if reading.unused:
        lines.append(f"not used: {', '.join(f'“{words}”' for words in reading.unused)}")
    for what, near in reading.cannot:
        instead = f"; near it: {', '.join(CATALOGUE[key].label for key in near)}" if near else ""
        lines.append(f"{what} is in no record{instead}")
    return lines


def phrase_of(line: str) -> str:
    """Return a reading's line as pages show it."""
    (found,) = parse(text_of([line])).lines or (None,)
    return line_phrase(found) if found else line


def text_said(sentence: str, scope: Scope) -> str:
    """Return a sentence as the text form. Raises CriteriaError where it is not clear, with how it is read."""
    counties = list(County.objects.order_by("name"))
    reading = reading_of(sentence, counties, scope)
    if not reading.is_clear:
        raise CriteriaError("; ".join(explained(reading)) or "nothing of it means anything", word=sentence)
    return text_of(reading.lines)
