"""Spans of a sentence that mean something: every place where a row of the tables fits, and a name that is on record."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date
from functools import lru_cache
from typing import Protocol

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.language import idioms
from jaded_ledger.core.criteria.language.amounts import amount_text, period_text
from jaded_ledger.core.criteria.language.labels import labeled
from jaded_ledger.core.criteria.language.measures import MEASURES
from jaded_ledger.core.criteria.language.patterns import Found, Line, Pattern
from jaded_ledger.core.criteria.language.tokens import Token, one
from jaded_ledger.core.criteria.search import AnyOf, Criterion, Members, Quantity
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse, parse_line
from jaded_ledger.core.criteria.trait_names import name_words, named_meanings
from jaded_ledger.core.criteria.traits import Kind, Trait

Option = tuple[str, ...]
"""Lines of criteria that a span means together."""


class Recorded(Protocol):
    """Names on record, as of places, streets, owners and lenders, and those that the team gave, as to its lists."""

    def find(self, trait: str, words: Sequence[str]) -> tuple[str, int] | None:
        """Return the recorded name that some words begin with, in the notation of its trait, and how many of the words it takes."""


@dataclass(frozen=True)
class Edge:
    """A span of tokens, what it may mean, and how much that is worth. ``cannot`` says what it asks that no record tells."""

    start: int
    end: int
    options: tuple[Option, ...]
    worth: float
    cannot: str = ""


_WORTH = {"name": 7.0, "idiom": 10.0, "catalog": 8.0, "measure": 10.0, "period": 10.0, "label": 11.0}
_NEAR_FEET = ("..500", "..1000", "..2640")
_STATES = {
    "alabama": "AL", "alaska": "AK", "arizona": "AZ", "arkansas": "AR", "california": "CA", "colorado": "CO", "connecticut": "CT",
    "delaware": "DE", "florida": "FL", "georgia": "GA", "hawaii": "HI", "idaho": "ID", "illinois": "IL", "indiana": "IN", "iowa": "IA",
    "kansas": "KS", "kentucky": "KY", "louisiana": "LA", "maine": "ME", "maryland": "MD", "massachusetts": "MA",
    "michigan": "MI", "minnesota": "MN", "mississippi": "MS", "missouri": "MO", "montana": "MT", "nebraska": "NE", "nevada": "NV",
    "new hampshire": "NH", "new jersey": "NJ", "new mexico": "NM", "new york": "NY", "north carolina": "NC", "north dakota": "ND",
    "ohio": "OH", "oklahoma": "OK", "oregon": "OR", "pennsylvania": "PA", "rhode island": "RI", "south carolina": "SC",
    "south dakota": "SD", "tennessee": "TN", "texas": "TX", "utah": "UT", "vermont": "VT", "virginia": "VA", "washington": "WA",
    "west virginia": "WV", "wisconsin": "WI", "wyoming": "WY",
}  # fmt: skip
"""USPS Publication 28, appendix B; names as the lexer leaves them."""
_FAMILIES = {1: "single-family", 2: "duplex", 3: "triplex", 4: "fourplex"}
_ASKS_WHICH_WAY = ("days", "years", "acres", "sq ft", "ft", "mi", "months", "a month", "a year")
_EXACT_ALONE = ("tax-years-delinquent",)
_IN_THOUSANDS = ("list-price", "last-sale-price", "estimated-value", "assessed-value", "equity", "loan-balance")
"""Amounts that people say in thousands without saying so."""


_NAMED_WITH_TRAIT = frozenset(
    ("disagreement", "seller-kind", "seller-role", "ownership", "tenure", "amenities", "auction-kind", "area-grade")
)
"""Traits whose values mean them only beside their name."""
_TOO_COMMON = frozenset("owner sold tax none other lot judgment filed purchase sale trust bank estate value age people".split())
"""Words that are a value's name, and mostly mean something else."""
_PERCENT = ("%", "percent", "pct")


class _NothingError(Exception):
    """A pattern fits, but what stands in its slots means nothing."""


def _table(rows: Iterable[tuple[str, str]], kind: str) -> list[tuple[Pattern, str, str]]:
    return [(Pattern(text), meaning, kind) for text, meaning in rows]


@lru_cache(maxsize=1)
def rows() -> list[tuple[Pattern, str, str]]:
    """Return every row of every table."""
    found = _table(MEASURES, "measure") + _table(idioms.PERIODS, "period") + _table(idioms.NAMES, "name")
    for table in (idioms.OWNERS, idioms.DEBT, idioms.DISTRESS, idioms.SALES, idioms.LISTINGS, idioms.PROPERTY, idioms.REMARKS):
        found += _table(table, "idiom")
    return found + _table(((text, f"cannot {what}") for text, what in idioms.CANNOT), "idiom")


@lru_cache(maxsize=8)
def _catalog_rows(traits: tuple[Trait, ...]) -> list[tuple[Pattern, str, str]]:
    """Return rows for what the catalog calls its traits and their values."""
    found: dict[tuple[str, str], tuple[Pattern, str, str]] = {}

    def add(text: str, meaning: str) -> None:
        found.setdefault((text, meaning), (Pattern(text), meaning, "catalog"))

    for meaning in named_meanings(traits):
        words = " ".join(map(one, name_words(meaning.name)))
        if not re.fullmatch(r"[a-z]+(?: [a-z]+)*", words) or len(words) < 2:
            continue
        trait = meaning.trait
        if trait.kind is Kind.PLACE and not meaning.value:
            add(f"{words} <W>", f"{trait.key}: {{W {trait.key}}}")
        if trait.kind is Kind.DATE:
            add(f"{words} <P>", f"{trait.key}: {{P}}")
        elif trait.is_range:
            of = " [(%|percent|pct)]" if trait.kind is Kind.PERCENT else ""
            add(f"{words} [is] [of] <A>{of}<S>", f"{trait.key}: {{A}}")
            add(f"<A>{of}<S> [of] {words}<S>", f"{trait.key}: {{A}}")
        if (
            meaning.value
            and len(words) > 2
            and trait.key not in _NAMED_WITH_TRAIT
            and words not in idioms.FILLERS
            and words not in _TOO_COMMON
        ):
            add(words, f"{trait.key}: {meaning.value}")
            if meaning.key and trait.kind is Kind.CHOICE:
                for name in name_words(trait.label)[-1:]:
                    add(f"{one(name)} {words}", f"{trait.key}: {meaning.value}")
    return list(found.values())


@lru_cache(maxsize=1)
def _own_words() -> frozenset[str]:
    words = {word for pattern, _, _ in rows() for word in pattern.words}
    return frozenset(words | set(idioms.FILLERS) | {"or", "not", "no", "without", "except", "and", "but"})


def known_words(traits: tuple[Trait, ...]) -> frozenset[str]:
    """Return the words that mean something or are passed over: what is not among them may be a slip, or a name."""
    return _own_words() | _catalog_words(traits)


@lru_cache(maxsize=8)
def _catalog_words(traits: tuple[Trait, ...]) -> frozenset[str]:
    return frozenset(word for pattern, _, _ in _catalog_rows(traits) for word in pattern.words)


class _Filling:
    """A template's slots filled from a sentence."""

    def __init__(self, tokens: Sequence[Token], sentence: str, recorded: Recorded, today: date) -> None:
        self.tokens, self.sentence, self.recorded, self.today = tokens, sentence, recorded, today
        self.is_share = False

    def edges(self, found: Found, meaning: str, kind: str) -> Iterator[Edge]:
        if meaning.startswith("cannot "):
            worth = _WORTH[kind] * self.counted(found.start, found.end)
            yield Edge(found.start, found.end, (), worth, meaning.removeprefix("cannot "))
            return
        self.end = found.end
        options: list[Option] = []
        for either in meaning.split(" ?? "):
            try:
                options += self._options(either, found)
            except (_NothingError, CriteriaError):
                continue
        if options:
            worth = _WORTH[kind] * self.counted(found.start, self.end) - 1
            yield Edge(found.start, self.end, tuple(dict.fromkeys(options)), worth)

    def counted(self, start: int, end: int) -> int:
        """Return how many tokens of a span say something."""
        return sum(token.counts for token in self.tokens[start:end])

    def _options(self, template: str, found: Found) -> list[Option]:
        """Return what one meaning may be: a bare figure of some traits may be meant either way."""
        if " & " in template and not template.startswith("{"):
            parts = [self._options(part, found) for part in template.split(" & ")]
            if any(len(part) > 1 for part in parts):
                raise _NothingError
            return [tuple(line for (option,) in parts for line in option)]
        named = trait_of(template)
        self.is_share = named is not None and named.kind is Kind.PERCENT
        text = re.sub(r"\{([^{}|]+)\}", lambda slot: self._slot(slot[1], found), template)
        if text.endswith(": ?"):
            return [(canonical(text.replace("?", near)),) for near in _NEAR_FEET]
        line = canonical(text)
        key = line.partition(":")[0]
        trait = trait_of(line)
        if trait and trait.key in _IN_THOUSANDS and (thousands := self._in_thousands(found, text)):
            return [(line,), (thousands,)]
        if self._is_bare(found, template) and trait and trait.key not in _EXACT_ALONE and _asks(trait):
            value = text.partition(": ")[2]
            return [(canonical(f"{key}: {value}.."),), (canonical(f"{key}: ..{value}"),)]
        return [(line,)]

    def _in_thousands(self, found: Found, text: str) -> str | None:
        """Return a line about a price with its figures in thousands, where they may be meant so: under two hundred, at most 250."""
        start, end = found.slots.get("A", (0, 0))
        figures = [token for token in self.tokens[start:end] if token.number is not None]
        if not figures or any(token.is_money or not 10 <= (token.number or 0) < 1000 for token in figures):
            return None
        value = text.partition(": ")[2]
        return canonical(f"{text.partition(':')[0]}: {re.sub(r'[0-9.]*[0-9]', lambda one: f'{one[0]}000', value)}")

    def _is_bare(self, found: Found, template: str) -> bool:
        if "{A}" not in template or "A" not in found.slots:
            return False
        return self._amount(found, "A")[1]

    def _amount(self, found: Found, slot: str) -> tuple[str, bool]:
        start, end = found.slots[slot]
        tokens = list(self.tokens[start:end])
        for after in ("S", "S2"):
            if after in found.slots:
                first, last = found.slots[after]
                tokens += self.tokens[first:last]
        if self.is_share:
            # Half is 50 % where a share is asked for.
            tokens = [self._as_percent(token) for token in tokens]
        return amount_text(tokens)

    def _as_percent(self, token: Token) -> Token:
        is_word = token.number is not None and self.sentence[token.start : token.end][:1].isalpha()
        return replace(token, number=100 * token.number) if is_word and token.number is not None and token.number < 1 else token

    def _number(self, found: Found, slot: str) -> int:
        start, _ = found.slots[slot]
        number = self.tokens[start].number
        if number is None:
            raise _NothingError
        return int(number)

    def _slot(self, name: str, found: Found) -> str:
        if name == "A":
            return self._amount(found, "A")[0]
        if name in ("P", "P+"):
            start, end = found.slots["P"]
            period = period_text(self.tokens[start:end], self.today, self.sentence, ahead=name == "P+")
            if period is None:
                raise _NothingError
            return period
        if name[0] == "W":
            return self._name(name.split()[1:], found)
        return self._figure(name, found)

    def _figure(self, name: str, found: Found) -> str:
        match name:
            case "N" | "M" | "Y" | "D":
                number = self.tokens[found.slots[name][0]].number
                if number is None:
                    raise _NothingError
                return f"{number.normalize():f}"
            case "D9" | "E9":
                return str(self._number(found, name[0]) + 9)
            case "N99":
                return str(self._number(found, "N") + 99)
            case "ago N":
                return str(self.today.year - self._number(found, "N"))
            case "ago 1":
                return str(self.today.year - 1)
            case "months N":
                return str(round(self._number(found, "N") * 30.4))
            case "years since Y":
                return f"over {self.today.year - self._number(found, 'Y')}"
            case "F":
                return _FAMILIES.get(self._number(found, "F")) or _raise()
        return self._written(name, found)

    def _written(self, name: str, found: Found) -> str:
        match name:
            case "T":
                start, end = found.slots["T"]
                words = [token.text for token in self.tokens[start:end]]
                for count in (2, 1):
                    text = " ".join(words[:count])
                    if len(words) >= count and (state := _STATES.get(text) or (text.upper() if text.upper() in _STATES.values() else None)):
                        self.end = start + count
                        return state
                raise _NothingError
            case "Z":
                start, end = found.slots["Z"]
                code = self.sentence[self.tokens[start].start : self.tokens[end - 1].end].upper()
                # Counties write R1 or R-1.
                return f'"{code}", "{hyphened}"' if (hyphened := re.sub(r"^([A-Z]+)(\d)", r"\1-\2", code)) != code else f'"{code}"'
            case "zip":
                return next(self._text(place) for place in range(found.start, found.end) if self.tokens[place].text == "#z")
            case "parcel":
                return next(self._text(place) for place in range(found.start, found.end) if self.tokens[place].text == "@parcel")
            case "C":
                start, end = found.slots["C"]
                return ", ".join(f'"{token.text}"' for token in self.tokens[start:end] if token.text != "or")
            case "first":
                return f'"{next(self._text(place) for place in range(found.start, found.end) if self.tokens[place].text != "new")}"'
        raise _NothingError

    def _text(self, place: int) -> str:
        return self.sentence[self.tokens[place].start : self.tokens[place].end]

    def _name(self, traits: Sequence[str], found: Found) -> str:
        """Return the recorded name that the words of a slot begin with; of a name of no trait in particular the words themselves."""
        start, end = found.slots["W"]
        words = [self._text(place) for place in range(start, end)]
        if not traits:
            self.end = end
            return " ".join(words)
        best: tuple[int, str, str] | None = None
        for trait in traits:
            if (one := self.recorded.find(trait, words)) and (best is None or one[1] > best[0]):
                best = (one[1], trait, one[0])
        if best is None:
            raise _NothingError
        if end == found.end:
            self.end = start + best[0]
        elif best[0] < end - start:
            # Words of the pattern stand behind the name: it has to be all that is before them.
            raise _NothingError
        _, key, name = best
        recorded_in = CATALOGUE.get(key)
        if recorded_in and recorded_in.kind is Kind.SET:
            name = line_text(Criterion(key, (Members(Quantity.ANY, (name,)),))).removeprefix(f"{key}: ")
        return name if len(traits) == 1 else f"{key}: {name}"


def _raise() -> str:
    raise _NothingError


def trait_of(line: str) -> Trait | None:
    """Return the trait of a line; None of alternatives in braces."""
    return None if line.startswith("{") else CATALOGUE.get(line.partition(":")[0])


def _asks(trait: Trait) -> bool:
    return trait.kind in (Kind.MONEY, Kind.PERCENT) or (trait.unit in _ASKS_WHICH_WAY and trait.kind is not Kind.RING)


def canonical(text: str) -> str:
    """Return a line in its one spelling. Raises CriteriaError."""
    if text.startswith("{"):
        lines = parse("any of:\n" + "\n".join(f"  {part.strip()}" for part in text.strip("{}").split("|"))).lines
        assert isinstance(lines[0], AnyOf)
        return "{" + " | ".join(line_text(member) for member in lines[0].criteria) + "}"
    return line_text(parse_line(text))


def edges(tokens: Sequence[Token], sentence: str, traits: tuple[Trait, ...], recorded: Recorded, today: date) -> list[Edge]:
    """Return every span that means something."""
    line, filling = Line(tokens), _Filling(tokens, sentence, recorded, today)
    there = {token.text for token in tokens}
    found: list[Edge] = []
    for pattern, meaning, kind in (*rows(), *_catalog_rows(traits)):
        if not pattern.needed <= there:
            continue
        for match in pattern.search(line):
            if match.end < len(tokens) and tokens[match.end].text in _PERCENT and "A" in match.slots and "%" not in pattern.text:
                continue
            if pattern.text == "<$>" and not any(one.is_money or one.is_scaled for one in tokens[match.start : match.end]):
                continue
            found += filling.edges(match, meaning, kind)
    found += list(_also_areas(found))
    for start, end, text in labeled(tokens, sentence, traits):
        found.append(Edge(start, end, ((text,),), _WORTH["label"] * filling.counted(start, end)))
    behind = [edge for edge in found if edge.options and [token.text for token in tokens[edge.end : edge.end + 2]] == ["or", "unknown"]]
    return [*found, *(_or_unknown(edge) for edge in behind)]


def _also_areas(found: Sequence[Edge]) -> Iterator[Edge]:
    """Yield a span with both meanings where a place on record and an area of the team have one name."""
    areas = [edge for edge in found if edge.options and edge.options[0][0].startswith("in-area: ")]
    for area in areas:
        for place in found:
            if (place.start, place.end) == (area.start, area.end) and place not in areas and place.options:
                yield Edge(area.start, area.end, (*place.options, *area.options), max(place.worth, area.worth) + 0.5)


def _or_unknown(edge: Edge) -> Edge:
    """Return a span with *or unknown* behind it."""
    options = tuple((*option[:-1], canonical(f"{option[-1]}, or unknown")) for option in edge.options if not option[-1].startswith("{"))
    return Edge(edge.start, edge.end + 2, options or edge.options, edge.worth + 25)
